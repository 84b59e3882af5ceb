// Records that were edited by hand, damaged or forged: every field is held against its schema, and the fields against
// each other, before anything is made of them.

#include "../../fuzz/made_records.hpp"
#include "../../io/calibration_json.hpp"
#include "../support.hpp"

#include <regex>

namespace truecurve {
namespace {

using Fields = detail::Json;

const std::vector<std::string>& read_again() {
  static const std::vector<std::string> records = made::records_that_are_read();
  return records;
}

Fields changed_in(const std::string& record, const std::string& field, const Fields& value) {
  Fields json = Fields::parse(record);
  json[Fields::json_pointer(field)] = value;
  if (json.contains("checksum") && field != "/checksum") json["checksum"] = detail::checksum_of(json);
  return json;
}

// The places of all fields in a record, lists and objects included.
std::vector<std::string> fields_of(const Fields& node, const std::string& at = "") {
  std::vector<std::string> fields;
  for (const auto& [key, inner] : node.items()) {
    fields.push_back(at + "/" + key);
    if (!inner.is_structured()) continue;
    const auto below = fields_of(inner, fields.back());
    fields.insert(fields.end(), below.begin(), below.end());
  }
  return fields;
}

// Something that no field of that type may hold.
Fields another_type(const Fields& value) {
  if (value.is_object() || value.is_null()) return true;
  return {{"no", "such"}};
}

TEST(ReadRecords, EveryFieldOfEveryKindIsHeldAgainstItsSchema) {
  std::vector<std::string> records = read_again();
  const std::vector<std::string> others = made::other_records();
  records.insert(records.end(), others.begin(), others.end());
  std::set<std::string> tried;
  for (const std::string& record : records) {
    EXPECT_NO_THROW(require_record(record, "whole.json"));
    const Fields whole = Fields::parse(record);
    const std::string kind = whole["record"];
    for (const std::string& field : fields_of(whole)) {
      // Whole records within others are those of other kinds, and every element of a list is as its first.
      const bool is_inner =
          field.find("/fit/") != std::string::npos || field.find("/calibration/") != std::string::npos;
      if (is_inner || !tried.insert(kind + std::regex_replace(field, std::regex("/[0-9]+"), "/*")).second) continue;
      const Fields changed = changed_in(record, field, another_type(whole.at(Fields::json_pointer(field))));
      const Error error = test::caught([&] { require_record(changed.dump(), "edited.json"); });
      EXPECT_EQ(error.code(), ErrorCode::bad_record) << kind << field;
      EXPECT_EQ(error.subject(), field) << kind << ": " << error.what();
      EXPECT_EQ(error.place().file, "edited.json");
    }
  }
  EXPECT_GT(tried.size(), 500u);
}

// What the commands read again is read without complaint.
TEST(ReadRecords, WholeRecordsAreRead) {
  for (const std::string& record : read_again()) {
    const std::string kind = Fields::parse(record)["record"];
    if (kind == "truecurve.comparison/1") {
      EXPECT_EQ(read_comparison_record(record, "r.json").size(), 3u);
    } else if (kind == "truecurve.calibration/1") {
      EXPECT_EQ(read_calibration_record(record, "r.json").amount.name, "c");
    } else {
      const Estimate estimate = read_fit_record(record, "r.json");
      EXPECT_EQ(estimate.response().name, "y") << kind;
      EXPECT_EQ(name(estimate.observation_model().kind()), Fields::parse(record)["response_kind"]) << kind;
    }
  }
}

// In other units a covariance is held against its own size.
TEST(ReadRecords, AreHeldToTheirOwnSizes) {
  for (const double unit : {1e-9, 1e9}) {
    std::vector<double> y = {3.1, 4.9, 7.2, 8.8, 11.3, 12.7, 15.2};
    for (double& value : y) value *= unit;
    const std::string record = fit_record(fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5, 6, 7}, y)), 0.95);
    const double cab = Fields::parse(record)["covariance"][0][1];
    const Error error = test::caught(
        [&] { (void)read_fit_record(changed_in(record, "/covariance/0/1", cab * 1.001).dump(), "r.json"); });
    EXPECT_EQ(error.subject(), "/covariance/0/1");
    EXPECT_NO_THROW((void)read_fit_record(changed_in(record, "/covariance/0/1", cab * (1 + 1e-9)).dump(), "r.json"));
  }
}

TEST(ReadRecords, MissingFieldsAreNamed) {
  const std::string record = read_again()[0];
  for (const char* field :
       {"/data/predictors/0/low", "/parameters/1/value", "/working/inverse_factor", "/covariance"}) {
    Fields json = Fields::parse(record);
    const Fields::json_pointer at(field);
    json[at.parent_pointer()].erase(at.back());
    const Error error = test::caught([&] { (void)read_fit_record(json.dump(), "r.json"); });
    EXPECT_EQ(error.subject(), field);
    EXPECT_TRUE(has(error.message(), "missing"));
  }
}

// What a field may not be, and what the fields may not say of each other. The curve is y = a + b x.
TEST(ReadRecords, FieldsOutOfRangeOrAtOddsAreNamed) {
  const std::string line = read_again()[0];
  const Fields whole = Fields::parse(line);
  const double b = whole["parameters"][1]["value"];
  const double ub = whole["parameters"][1]["standard_uncertainty"];
  const double cab = whole["covariance"][0][1];
  const double rab = whole["correlation"][0][1];
  const double k = whole["working"]["inverse_factor"][1][1];
  const double centre = whole["working"]["centre"][1];
  const Fields limits = {{"low", b + 1}, {"high", nullptr}};
  struct Case {
    const char* field;
    Fields value;
    const char* subject;
  };
  const std::vector<Case> cases = {
      {"/degrees_of_freedom", -1, "/degrees_of_freedom"},
      {"/parameters/1/standard_uncertainty", -ub, "/parameters/1/standard_uncertainty"},
      {"/parameters/1/p", 1.5, "/parameters/1/p"},
      {"/parameters/1/interval/level", 1, "/parameters/1/interval/level"},
      {"/working/half_width", 1, "/working/half_width"},
      {"/working/half_width", -1, "/working/half_width"},
      {"/working/scale", -1, "/working/scale"},
      {"/working/new_observation/kind", "by_row", "/working/new_observation/kind"},
      {"/uncertainty", "guessed", "/uncertainty"},
      {"/response_kind", "other", "/response_kind"},
      {"/data/rows_used", -7, "/data/rows_used"},
      {"/data/rows_used", 6.5, "/data/rows_used"},
      {"/data/rows_used", 1e300, "/data/rows_used"},
      {"/data/sha256", "abc", "/data/sha256"},
      {"/record", "truecurve.fit/2", "/record"},
      {"/record", "truecurve.prediction/1", "/record"},
      {"/record", 1, "/record"},
      {"/data/predictors/0/low", 8, "/data/predictors/0/low"},
      {"/model/text", "y = a + b*x*c", "/parameters"},
      {"/model/text", "y = a + b*x)", "/model/text"},
      {"/model/text", "y = a + b*z", "/parameters"},
      {"/model/kind", "function", "/model/kind"},
      {"/parameters/1/name", "c", "/parameters"},
      {"/parameters/1/value", b + 1e-3, "/working/parameters"},
      {"/parameters/1/within", limits, "/parameters/1/value"},
      {"/parameters/1/within", {{"low", 9}, {"high", 1}}, "/parameters/1/within/low"},
      {"/parameters/1/within", {{"low", 0}, {"high", nullptr}, {"at_least", b + 1}}, "/parameters/1/within/at_least"},
      {"/covariance", Fields::array({Fields::array({1.0})}), "/covariance"},
      {"/covariance/0/1", cab * 1.01, "/covariance/0/1"},
      {"/correlation/0/1", rab * 0.99, "/correlation/0/1"},
      {"/correlation/1/1", 1.2, "/correlation/1/1"},
      {"/correlation/1/1", 0.9, "/correlation/1/1"},
      {"/parameters/1/standard_uncertainty", ub * 1.01, "/covariance/0/1"},
      {"/working/centre", Fields::array({0.0}), "/working/centre"},
      {"/working/centre/1", centre + 1, "/working/parameters"},
      {"/working/inverse_factor/1/1", k * 1.01, "/working/inverse_factor"},
  };
  for (const Case& c : cases) {
    const Fields changed = changed_in(line, c.field, c.value);
    const Error error = test::caught([&] { (void)read_fit_record(changed.dump(), "edited.json"); });
    EXPECT_EQ(error.code(), ErrorCode::bad_record) << c.field << error.what();
    EXPECT_EQ(error.subject(), c.subject) << c.field << ": " << error.what();
    EXPECT_FALSE(error.remedy().empty());
  }
  // What is within the rounding of another program's digits is not at odds.
  EXPECT_NO_THROW((void)read_fit_record(changed_in(line, "/parameters/1/value", b * (1 + 1e-12)).dump(), "r"));
}

// Curve and parameters are compared within the data: of a curve that ends close behind them, too.
TEST(ReadRecords, AreComparedWithinTheirData) {
  const Fit made = fit(Model::written("y = a + b*sqrt(10 - x)"),
                       Observations::of({8, 8.5, 9, 9.5, 9.9}, {3.4, 3.25, 2.95, 2.7, 2.35}));
  const std::string record = fit_record(made, 0.95);
  EXPECT_NO_THROW((void)read_fit_record(record, "r.json"));
  const double b = made.parameter("b").value;
  const Error error = test::caught(
      [&] { (void)read_fit_record(changed_in(record, "/parameters/1/value", b + 1e-3).dump(), "edited.json"); });
  EXPECT_EQ(error.subject(), "/working/parameters") << error.what();
}

// Correlations that are all right one by one can be those of nothing.
TEST(ReadRecords, NoCombinationOfParametersHasAVarianceBelowZero) {
  const std::string record = read_again()[1];  // three parameters
  Fields json = Fields::parse(record);
  for (int i = 0; i < 3; ++i) {
    for (int j = 0; j < 3; ++j) {
      const double r = i == j ? 1 : -0.9;
      json["correlation"][i][j] = r;
      const double ui = json["parameters"][i]["standard_uncertainty"];
      const double uj = json["parameters"][j]["standard_uncertainty"];
      json["covariance"][i][j] = r * ui * uj;
    }
  }
  const Error error = test::caught([&] { (void)read_fit_record(json.dump(), "forged.json"); });
  EXPECT_EQ(error.subject(), "/correlation") << error.what();
}

TEST(ReadRecords, CalibrationsAreHeldAgainstTheirNames) {
  std::vector<std::string> calibrations;
  for (const std::string& record : read_again()) {
    if (Fields::parse(record)["record"] == "truecurve.calibration/1") calibrations.push_back(record);
  }
  ASSERT_EQ(calibrations.size(), 3u);  // constant, a power, a function with weightings
  const Fields weightings = Fields::parse(calibrations[2])["curve"]["weightings"];
  ASSERT_GT(weightings.size(), 1u);
  struct Case {
    std::size_t record;
    const char* field;
    Fields value;
    const char* subject;
  };
  const Fields table = {{{"signal", 2}, {"sd", 1}}, {{"signal", 1}, {"sd", 1}}};
  for (const Case& c : std::vector<Case>{
           {0, "/checksum", std::string(64, '0'), "/checksum"},
           {0, "/amount/name", "A", "/curve/estimate/data/predictors"},
           {0, "/signal/name", "N", "/curve/estimate/data/response/name"},
           {0, "/curve/without_blank/data/response/name", "N", "/curve/without_blank/data/response/name"},
           {0, "/curve/are_counts", true, "/curve/are_counts"},
           {0, "/columns/exposure", "t", "/curve/are_counts"},
           {0, "/columns/exposure", 0, "/columns/exposure"},
           {0, "/curve/level", 95, "/curve/level"},
           {0, "/limit_options/alpha", 0, "/limit_options/alpha"},
           {0, "/limit_options/beta", 1, "/limit_options/beta"},
           {0, "/limit_options/readings", 0, "/limit_options/readings"},
           {0, "/limit_options/readings", 1e12, "/limit_options/readings"},
           {0, "/curve/scatter/scale", nullptr, "/curve/scatter/scale"},
           {0, "/curve/scatter/scale", -1, "/curve/scatter/scale"},
           {0, "/curve/scatter/table", table, "/curve/scatter/table/1/signal"},
           {0, "/curve/scatter/form", "tabulated", "/curve/scatter/table"},
           {0, "/curve/estimate/covariance/1/1", 1e3, "/curve/estimate/covariance/1/1"},
           {1, "/curve/scatter/power", nullptr, "/curve/scatter/power"},
           {2, "/curve/scatter/constant", nullptr, "/curve/scatter/constant"},
           {2, "/curve/scatter/slope", nullptr, "/curve/scatter/slope"},
           {2, "/curve/weightings/0/weight", 1, "/curve/weightings"},
           {2, "/curve/weightings/0/estimate/data/predictors", Fields::array(),
            "/curve/weightings/0/estimate/parameters"},
       }) {
    const Fields changed = changed_in(calibrations[c.record], c.field, c.value);
    const Error error = test::caught([&] { (void)read_calibration_record(changed.dump(), "edited.json"); });
    EXPECT_EQ(error.code(), ErrorCode::bad_record) << c.field << error.what();
    EXPECT_EQ(error.subject(), c.subject) << c.field << ": " << error.what();
  }
}

TEST(ReadRecords, ComparisonsAreOfOneResponse) {
  std::string comparison;
  for (const std::string& record : read_again()) {
    if (Fields::parse(record)["record"] == "truecurve.comparison/1") comparison = record;
  }
  for (const auto& [field, value, subject] :
       {std::tuple<const char*, Fields, const char*>{"/candidates/1/fit/data/response/unit", "mm",
                                                     "/candidates/1/fit/data/response"},
        {"/candidates/1/fit/data/predictors/0/unit", "min", "/candidates/1/fit/data/predictors"},
        {"/candidates/0/weight", 0.5, "/candidates"},
        {"/candidates/0/weight", -0.5, "/candidates/0/weight"},
        {"/candidates", Fields::array(), "/candidates"},
        {"/candidates/1/fit/covariance/0/0", 99, "/candidates/1/fit/covariance/0/0"}}) {
    const Fields changed = changed_in(comparison, field, value);
    const Error error = test::caught([&] { (void)read_comparison_record(changed.dump(), "edited.json"); });
    EXPECT_EQ(error.code(), ErrorCode::bad_record) << field << error.what();
    EXPECT_EQ(error.subject(), subject) << error.what();
  }
}

// Depths that no stack holds, numbers that no double holds, and what is no record at all.
TEST(ReadRecords, TextsThatAreNoRecordsAreRefused) {
  const std::string deep = std::string(200000, '[') + std::string(200000, ']');
  std::string far = read_again()[0];
  far.replace(far.find("\"degrees_of_freedom\": ") + 22, 1, "1e999");
  for (const auto& [text, said] : {std::pair<std::string, const char*>{"{\"record\": " + deep + "}", "levels deep"},
                                   {deep, "levels deep"},
                                   {far, "1e999"},
                                   {"", "line 1"},
                                   {"{\"record\"", "line 1"},
                                   {"{}", "not a record"},
                                   {"[1]", "not a record"},
                                   {"{\"record\": \"truecurve.parts/1\"}", "truecurve.parts/1"},
                                   {"{\"record\": \"truecurve.study/1\"}", "truecurve.study/1"}}) {
    const Error error = test::caught([&text = text] { require_record(text, "r.json"); });
    EXPECT_EQ(error.code(), ErrorCode::bad_record);
    EXPECT_TRUE(has(error.what(), said));
    EXPECT_EQ(test::caught([&text = text] { (void)read_calibration_record(text, "r.json"); }).code(),
              ErrorCode::bad_record);
  }
}

}  // namespace
}  // namespace truecurve
