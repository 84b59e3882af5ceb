// Choosing columns, uncertainties and rows.
#include <truecurve/io/csv.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using test::caught;

Table read(const std::string& text) {
  std::istringstream stream(text);
  return read_csv(stream, "lab.csv");
}

TEST(Observations, LeaveOutMissingRowsAndSayWhy) {
  const Table table = read("x,y\n1,2\n,3\n3,4\n4,NA\n5,6\n6,7\n");
  const Observations all(table, {.response = "y", .predictors = {"x"}, .left_out = {{6, "spilt"}}});
  ASSERT_EQ(all.left_out().size(), 3u);
  EXPECT_EQ(all.left_out()[0].row, 2u);
  EXPECT_EQ(all.left_out()[0].reason, "'x' is missing");
  EXPECT_EQ(all.left_out()[2].reason, "spilt");
  const Observations fewer = all.without(std::vector<std::size_t>{3}, "cracked mould");
  EXPECT_EQ(fewer.size(), 2u);
  EXPECT_EQ(fewer.left_out()[1].reason, "cracked mould");
  EXPECT_EQ(fewer.responses()[1], 6);
  EXPECT_EQ(fewer.source_rows()[1], 5u);
  EXPECT_EQ(caught([&] {
              (void)fewer.without(std::vector<std::size_t>{1, 5}, "all");
            }).code(),
            ErrorCode::no_observations);
  EXPECT_EQ(caught([&] { (void)fewer.without(std::vector<std::size_t>{9}, "none"); }).code(),
            ErrorCode::unsuitable_row);
}

TEST(Observations, FindUncertaintiesByNameNumberOrPercentage) {
  const Table table = read("x,y,u(y)\n1,20,0.5\n2,40,1.5\n");
  const Observations found(table, {.response = "y", .predictors = {"x"}});
  EXPECT_EQ(found.uncertainties()[1], 1.5);
  EXPECT_TRUE(has(found.uncertainty_origin(), "found by its name"));
  const Observations underscore(read("x,y,u_y\n1,2,0.25\n"), {.response = "y", .predictors = {"x"}});
  EXPECT_EQ(underscore.uncertainties()[0], 0.25);
  const Observations percent(table,
                             {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(2)});
  EXPECT_DOUBLE_EQ(percent.uncertainties()[1], 0.8);
  const Observations none(table, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::none()});
  EXPECT_FALSE(none.has_uncertainties());
  const Observations predictor(read("x,y,u(x)\n1,2,3\n"), {.response = "y", .predictors = {"x"}});
  ASSERT_EQ(predictor.remarks().size(), 1u);
  EXPECT_TRUE(has(predictor.remarks()[0], "u(x)"));
}

TEST(Observations, RefuseUncertaintiesThatAreNone) {
  for (const char* bad : {"0", "-1", "NA"}) {
    SCOPED_TRACE(bad);
    const Table table = read(std::string("x,y,u(y)\n1,20,0.5\n2,40,") + bad + "\n");
    const Error error = caught([&] { (void)Observations(table, {.response = "y", .predictors = {"x"}}); });
    EXPECT_EQ(error.code(), ErrorCode::bad_uncertainty);
    EXPECT_EQ(error.subject(), "row 2");
    EXPECT_EQ(error.place().line, 3u);
    // ... and leaving that row out is the remedy it names.
    EXPECT_EQ(Observations(table, {.response = "y", .predictors = {"x"}, .left_out = {{2, "by hand"}}}).size(), 1u);
  }
  EXPECT_EQ(caught([] { (void)Uncertainty::number(-0.5); }).code(), ErrorCode::bad_uncertainty);
  const Table zero = read("x,y\n1,0\n2,4\n");
  EXPECT_EQ(caught([&] {
              (void)Observations(
                  zero, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(2)});
            }).subject(),
            "row 1");
  EXPECT_EQ(caught([] {
              (void)Observations::of(Eigen::Vector2d(1, 2), Eigen::Vector2d(1, 2), Eigen::Vector2d(1, not_a_number));
            }).code(),
            ErrorCode::bad_uncertainty);
  EXPECT_EQ(caught([] { (void)Observations::of(Eigen::Vector2d(1, infinity), Eigen::Vector2d(1, 2)); }).code(),
            ErrorCode::not_finite);
  EXPECT_EQ(caught([] { (void)Observations::of(Eigen::Vector2d(1, 2), Eigen::Vector3d(1, 2, 3)); }).code(),
            ErrorCode::bad_argument);
}

TEST(Observations, NameTheTextInAColumnOfNumbers) {
  const Error error =
      caught([] { (void)Observations(read("x,y\n1,2\n2,<0.5\n3,4\n"), {.response = "y", .predictors = {"x"}}); });
  EXPECT_EQ(error.code(), ErrorCode::text_in_numbers);
  EXPECT_EQ(error.value(), "<0.5");
  EXPECT_EQ(error.subject(), "y");
  EXPECT_EQ(error.place().line, 3u);
  EXPECT_EQ(caught([] { (void)Observations(read("x,y\n1,2\n"), {.response = "y", .predictors = {"y"}}); }).code(),
            ErrorCode::bad_argument);
}

TEST(RowsWhere, PicksByCondition) {
  const Table table = read("x,y,kind\n1,5,a\n20,NA,b\n60,7,c\n70,1,d\n");
  EXPECT_EQ(rows_where(table, "x > 50"), (std::vector<std::size_t>{3, 4}));
  EXPECT_EQ(rows_where(table, "y < 6 or not (x >= 20)"), (std::vector<std::size_t>{1, 4}));
  EXPECT_EQ(rows_where(table, "x == 20 and 1 < 2"), (std::vector<std::size_t>{2}));
  EXPECT_EQ(rows_where(table, "x != 20 and abs(y - 5) <= 2"), (std::vector<std::size_t>{1, 3}));
  EXPECT_EQ(caught([&] { (void)rows_where(table, "z > 1"); }).code(), ErrorCode::unknown_column);
  EXPECT_EQ(caught([&] { (void)rows_where(table, "x >"); }).code(), ErrorCode::syntax);
  EXPECT_EQ(caught([&] { (void)rows_where(table, "1 > 0"); }).code(), ErrorCode::bad_argument);
}

TEST(Summary, GivesQuartilesAndFences) {
  // Definition 7 of Hyndman and Fan by hand: positions 1 + (n-1)p.
  const ColumnSummary s = summary_of(read("x,y\n1,1\n2,1\n3,1\n4,1\n50,1\nNA,1\n").column("x"));
  EXPECT_EQ(s.count, 5u);
  EXPECT_EQ(s.missing, 1u);
  EXPECT_EQ(s.lower_quartile, 2);
  EXPECT_EQ(s.upper_quartile, 4);
  EXPECT_EQ(s.mean, 12);
  EXPECT_NEAR(s.sd, std::sqrt((121 + 100 + 81 + 64 + 1444) / 4.0), 1e-12);
  EXPECT_EQ(s.beyond_fences, (std::vector<std::size_t>{5}));
  EXPECT_EQ(s.order, ColumnOrder::ascending);
}

// What lies outside the fences by design is not unusual: a heating curve, levels that return, a series of dilutions.
TEST(Summary, CallsUnusualWhatNothingExplains) {
  const auto unusual = [](const std::vector<double>& numbers) {
    return summary_of(Table::from_columns({{"x", "", numbers}}).column("x")).unusual;
  };
  const std::vector<double> slip = {7.1, 7.3, 6.9, 7.2, 72, 7.0, 7.1};
  EXPECT_EQ(unusual(slip), (std::vector<std::size_t>{5}));
  std::vector<double> sorted = slip;
  std::sort(sorted.begin(), sorted.end());
  EXPECT_TRUE(unusual(sorted).empty());
  EXPECT_TRUE(unusual({0, 1, 1, 2, 2, 1, 40, 0, 1, 2, 40}).empty());
  EXPECT_TRUE(unusual({1, 100, 10, 1000, 3, 30, 300}).empty());
  EXPECT_EQ(unusual({-0.6, 0.5, 0, 0.2, -0.3, 0.1, 60}), (std::vector<std::size_t>{7}));
  const ColumnSummary s = summary_of(Table::from_columns({{"x", "", {0.5, 1, 1, 2.5, 2.5, 2.5}}}).column("x"));
  EXPECT_EQ(s.levels, 3u);
  EXPECT_EQ(s.least_repeats, 1u);
  EXPECT_EQ(s.most_repeats, 3u);
  EXPECT_EQ(s.step, 0.1);
}

TEST(ElapsedTime, CountsFromTheFirstEntry) {
  const auto elapsed = [](const std::string& entries) {
    std::string text = "when;y\n";
    std::istringstream lines(entries);
    for (std::string line; std::getline(lines, line);) text += line + ";1\n";
    return elapsed_time(read(text).column("when"));
  };
  const struct {
    const char* entries;
    std::vector<double> numbers;
    const char* unit;
  } cases[] = {
      {"2026-11-24\n2026-11-25\n2027-03-01\n", {0, 1, 97}, "d"},
      {"28.2.2024\n01.03.2024\n", {0, 2}, "d"},
      {"08:15\n08:45\n07:15\n", {0, 1800, -3600}, "s"},
      {"08:15:30\n08:15:30.25\n", {0, 0.25}, "s"},
      {"2026-12-31 23:59:50\n2027-01-01 00:00:10\n", {0, 20}, "s"},
      {"2026-12-31T23:59Z\n2027-01-01T00:01Z\n", {0, 120}, "s"},
      {"31.12.2026 23:59\n1.1.2027 0:00\n", {0, 60}, "s"},
  };
  for (const auto& c : cases) {
    const auto made = elapsed(c.entries);
    ASSERT_TRUE(made) << c.entries;
    EXPECT_EQ(made->numbers, c.numbers) << c.entries;
    EXPECT_EQ(made->unit, c.unit);
    EXPECT_FALSE(made->is_text());
  }
  for (const char* other :
       {"2026-02-30\nx\n", "2026-13-01\nx\n", "2026-11-24\n08:15\n", "08:15\nlate\n", "8:5\n8:6\n",
        "1/2/2026\n2/2/2026\n", "2026-11-24 \n2026-11-24 at noon\n", "25:00\n26:00\n", "24.11.26\n25.11.26\n"})
    EXPECT_FALSE(elapsed(other)) << other;
  EXPECT_TRUE(std::isnan(elapsed("2026-11-24\nNA\n2026-11-26\n")->numbers[1]));
  EXPECT_FALSE(elapsed_time(read("x,y\n1,2\n").column("x")));
}

TEST(Table, TakesAnotherColumnInThePlaceOfOne) {
  const Table table = read("x,y\n1,2\n3,4\n");
  EXPECT_EQ(table.with_column({.name = "y", .numbers = {5, 6}}).column("y").numbers, (std::vector<double>{5, 6}));
  EXPECT_EQ(caught([&] { (void)table.with_column({.name = "y", .numbers = {5}}); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(caught([&] {
              (void)table.with_column({.name = "z", .numbers = {5, 6}});
            }).code(),
            ErrorCode::unknown_column);
}

TEST(Table, FindsAColumnUnderEveryNameItHas) {
  const Table table =
      read("T (degC),u_T,n,state\n20,0.1,3,sound\n,0.2,4,\n22,0.1,NA,cracked\n").with_alias("temp", "T");
  const Column& column = table.column("temp");
  EXPECT_EQ(column.own_name, "T");
  EXPECT_EQ(column.header, "T (degC)");
  for (const char* name : {"temp", "T", "T (degC)"}) {
    EXPECT_TRUE(column.is_called(name)) << name;
    EXPECT_EQ(&table.column(name), &column) << name;
  }
  for (const char* name : {"", "t", "degC", "u_T"}) EXPECT_FALSE(column.is_called(name)) << name;
  EXPECT_TRUE(table.column("n").own_name.empty());
  EXPECT_EQ(table.uncertainty_of(column), &table.column("u_T"));  // by the name behind the alias
  EXPECT_EQ(table.uncertainty_of(table.column("n")), nullptr);
  EXPECT_EQ(column.missing_count(), 1u);
  EXPECT_EQ(table.column("u_T").missing_count(), 0u);
  EXPECT_EQ(table.column("n").missing_count(), 1u);
  EXPECT_EQ(table.column("state").missing_count(), 1u);  // of words, which are no numbers either
  EXPECT_FALSE(column.is_missing(0));
  EXPECT_TRUE(column.is_missing(1));
  EXPECT_TRUE(column.is_missing(3)) << "there is no such row";
  EXPECT_EQ(column.text_at(3), nullptr);
  EXPECT_EQ(row_text(table, 2), "row 3 (line 4)");
  EXPECT_EQ(row_text(Table::from_columns({{"x", "", {1, 2, 3}}}), 2), "row 3");
}

TEST(NearestName, IsOneThatFewLettersChange) {
  struct Case {
    const char* word;
    std::vector<std::string> names;
    const char* nearest;
  };
  for (const auto& [word, names, nearest] :
       {Case{"slpoe", {"slope", "sole"}, "slope"},  // an exchange is one change
        Case{"X", {"y", "x"}, "x"}, Case{"x", {"y"}, ""}, Case{"temprature", {"time", "temperature"}, "temperature"},
        Case{"abcdef", {"abcxyz"}, ""}, Case{"abcdef", {"xbcdex", "abcdxy"}, "xbcdex"},  // the first of equals
        Case{"mass", {"mas", "masss"}, "mas"}, Case{"anything", {}, ""}}) {
    EXPECT_EQ(nearest_name(word, names), nearest) << word;
  }
}

TEST(Observations, CountedKeepTheirSizesWithOtherShares) {
  const Table table = read("x,cracked,n\n1,1,5\n2,3,10\n3,4,4\n");
  const Choice choice{
      .response = "cracked", .predictors = {"x"}, .counting = {.kind = ResponseKind::events, .size_column = "n"}};
  const Observations rows(table, choice);
  EXPECT_EQ(rows.size_origin(), "from column 'n'");
  EXPECT_TRUE(rows.has_sizes());
  EXPECT_EQ(rows.sizes(), (Vector{5, 10, 4}));
  EXPECT_EQ(rows.counted_numbers(), (Vector{1, 3, 4}));
  const Observations other = rows.with_counted({0.4, 0.5, 0.25});
  EXPECT_EQ(other.responses(), (Vector{0.4, 0.5, 0.25}));
  EXPECT_EQ(other.counted_numbers(), (Vector{2, 5, 1}));
  EXPECT_EQ(other.observation_model().kind(), ResponseKind::events);
  EXPECT_EQ(caught([&] { (void)rows.with_counted({0.4, 0.5}); }).code(), ErrorCode::bad_argument);
  const Observations counts(
      table, {.response = "n", .predictors = {"x"}, .counting = {.kind = ResponseKind::counts, .size = 2}});
  EXPECT_EQ(counts.size_origin(), "2 for every row");
  EXPECT_EQ(counts.responses(), (Vector{2.5, 5, 2}));
  const Observations single = Observations::counted({1, 2, 3}, {0, 1, 1}, {1, 1, 1}, ResponseKind::events);
  EXPECT_FALSE(single.has_sizes());
  EXPECT_TRUE(single.size_origin().empty());
  EXPECT_EQ(Uncertainty("s").column_name(), "s");
  EXPECT_TRUE(Uncertainty::number(2).column_name().empty());
}

TEST(Units, AreKnownByTheirFactors) {
  for (const char* known : {"min", "K", "°C", "degC", "mPa s", "kcps", "mg/g", "g/cm3", "g/cm^3", "1/min", "m s-1",
                            "W/(m2 K)", "%", "µg/L", "um"})
    EXPECT_TRUE(is_known_unit(known)) << known;
  for (const char* other : {"", "low", "yes", "blank", "gate", "3", "kcps/x", "minutes"})
    EXPECT_FALSE(is_known_unit(other)) << other;
}

TEST(Table, RefusesTwinsAndTakesAliases) {
  EXPECT_EQ(caught([] {
              (void)Table::from_columns({{"x", "", {1}}, {"x", "", {2}}});
            }).code(),
            ErrorCode::duplicate_column);
  EXPECT_EQ(caught([] { (void)Table::from_columns({{"x", "", {1}}, {"y", "", {}}}); }).code(), ErrorCode::bad_argument);
  const Table table = read("Time elapsed (s),y\n1,2\n").with_alias("t", "Time elapsed");
  EXPECT_EQ(table.column("t").unit, "s");
  EXPECT_TRUE(table.has_column("Time elapsed (s)"));
  EXPECT_EQ(caught([&] { (void)table.with_alias("y", "t"); }).code(), ErrorCode::duplicate_column);
}

// A column of uncertainties is read in its own unit: prefixes are converted and said, one percentage for all rows is of
// the fitted value, other quantities are refused.
TEST(Observations, ReadUncertaintiesInTheirUnits) {
  const auto with_unit = [](const std::string& unit, double factor, double last = 50) {
    const Table table = Table::from_columns(
        {{"x", "", {1, 2, 3}}, {"y", "V", {2, 4, 6}}, {"u(y)", unit, {50 * factor, 50 * factor, last * factor}}});
    return Observations(table, {.response = "y", .predictors = {"x"}});
  };
  EXPECT_DOUBLE_EQ(with_unit("mV", 1).uncertainties()[1], 0.05);
  EXPECT_TRUE(has(with_unit("mV", 1).uncertainty_origin(), "converted from mV to V"));
  EXPECT_DOUBLE_EQ(with_unit("V", 1e-3).uncertainties()[1], 0.05);
  EXPECT_DOUBLE_EQ(with_unit("", 1e-3).uncertainties()[1], 0.05);
  EXPECT_DOUBLE_EQ(with_unit("%", 0.1).relative_uncertainty(), 0.05);
  EXPECT_DOUBLE_EQ(with_unit("%", 0.1).uncertainties()[1], 0.2);
  EXPECT_EQ(test::caught([&] { (void)with_unit("%", 0.1, 60); }).code(), ErrorCode::bad_uncertainty);
  EXPECT_EQ(test::caught([&] { (void)with_unit("kg", 1); }).code(), ErrorCode::bad_uncertainty);
  // Kelvin and degrees Celsius are the same for a difference, in the unit of either.
  for (const auto& [of_y, of_u, factor] :
       {std::tuple{"°C", "K", 1.0}, std::tuple{"K", "°C", 1.0}, std::tuple{"°C", "mK", 1e-3}}) {
    const Table table = Table::from_columns({{"y", of_y, {2, 4}}, {"x", "", {1, 2}}, {"u(y)", of_u, {0.5, 0.5}}});
    EXPECT_EQ(Observations(table, {.response = "y", .predictors = {"x"}}).uncertainties()[0], 0.5 * factor) << of_u;
  }
}

}  // namespace
}  // namespace truecurve
