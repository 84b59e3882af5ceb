// Observations from arrays: several named predictors with units, moved in or lent.

#include "../support.hpp"

namespace truecurve {
namespace {

const std::vector<double> walls = {30, 40, 50, 60, 45, 55};
const std::vector<double> diameters = {400, 420, 500, 610, 480, 590};
const std::vector<double> tones = {812.5, 930, 905, 870, 860, 815};
const std::vector<double> tone_us = {4, 4, 5, 5, 4, 6};
const Model dimensional = Model::written("f = a*t/d^2 + b*t");

TEST(ObservationsOf, NamedColumnsAreThoseOfATable) {
  const Table table =
      Table::from_columns({{"t", "mm", walls}, {"d", "mm", diameters}, {"f", "Hz", tones}, {"u(f)", "Hz", tone_us}});
  const Fit of_table = fit(dimensional, Observations(table, {.response = "f", .predictors = {"t", "d"}}));
  const Observations columns =
      Observations::of_columns({"f", "Hz", tones}, {{"t", "mm", walls}, {"d", "mm", diameters}}, tone_us);
  EXPECT_EQ(columns.predictors()[1].name, "d");
  EXPECT_EQ(columns.predictors()[1].unit, "mm");
  EXPECT_EQ(columns.response().unit, "Hz");
  EXPECT_TRUE(columns.has_uncertainties());
  const Observations lent =
      Observations::borrowed({"f", "Hz", tones}, {{"t", "mm", walls}, {"d", "mm", diameters}}, tone_us);
  for (const Observations& points : {columns, lent}) {
    const Fit of_arrays = fit(dimensional, points);
    EXPECT_EQ(of_arrays.estimate().parameters(), of_table.estimate().parameters());
    EXPECT_EQ(of_arrays.estimate().covariance(), of_table.estimate().covariance());
    EXPECT_EQ(of_arrays.estimate().unit(0), of_table.estimate().unit(0));
    EXPECT_EQ(of_arrays.chi_squared(), of_table.chi_squared());
  }
  // A mean has no predictors.
  EXPECT_NEAR(fit(Model::written("f = m"), Observations::of_columns({"f", "", tones}, {})).estimate().parameters()[0],
              865.4166666666666, 1e-9);
}

// What is lent is read where it stands; what is derived from it has numbers of its own.
TEST(ObservationsOf, LentArraysAreNotCopied) {
  std::vector<double> x = {1, 2, 3, 4};
  std::vector<double> y = {2, 4, 6, 9};
  const Observations lent = Observations::borrowed({"y", "", y}, {{"x", "", x}});
  EXPECT_EQ(lent.responses().data(), y.data());
  EXPECT_EQ(lent.predictor(0).data(), x.data());
  const Observations same = lent;
  EXPECT_EQ(same.responses().data(), y.data());
  const Observations fewer = lent.without(std::vector<std::size_t>{4}, "too long");
  const Observations others = lent.with_response(Vector{1, 1, 1, 2});
  const Vector copy = lent.responses();
  Vector changed = lent.responses();
  changed[0] = 7;
  EXPECT_EQ(y[0], 2);
  const Observations moved = Observations::of_columns({"y", "", std::move(y)}, {{"x", "", std::move(x)}});
  EXPECT_EQ(fewer.responses(), (Vector{2, 4, 6}));
  EXPECT_EQ(others.predictor(0), (Vector{1, 2, 3, 4}));
  EXPECT_EQ(copy, (Vector{2, 4, 6, 9}));
  EXPECT_EQ(changed, (Vector{7, 4, 6, 9}));
  EXPECT_EQ(moved.source_rows()[3], 4u);
  EXPECT_EQ(moved.order(), (Vector{1, 2, 3, 4}));
  EXPECT_EQ(fewer.source_rows().size(), 3u);
}

TEST(ObservationsOf, RefusesWhatDoesNotFit) {
  const auto refused = [](NamedColumn response, std::vector<NamedColumn> predictors, Vector uncertainties = {}) {
    return test::caught(
        [&] { (void)Observations::of_columns(std::move(response), std::move(predictors), std::move(uncertainties)); });
  };
  EXPECT_EQ(refused({"y", "", {1, 2}}, {{"x", "", {1, 2, 3}}}).message(),
            "x has 3 values, y 2 and the uncertainties 0");
  EXPECT_EQ(refused({"y", "", {1, 2}}, {{"x", "", {1, 2}}}, {1}).code(), ErrorCode::bad_argument);
  EXPECT_EQ(refused({"y", "", {1, 2}}, {{"y", "", {1, 2}}}).code(), ErrorCode::bad_argument);
  EXPECT_EQ(refused({"", "", {1, 2}}, {{"x", "", {1, 2}}}).code(), ErrorCode::bad_argument);
  EXPECT_EQ(refused({"y", "", {}}, {{"x", "", {}}}).code(), ErrorCode::no_observations);
  EXPECT_EQ(refused({"y", "", {1, 2}}, {{"x", "", {1, 2}}, {"z", "", {1, INFINITY}}}).message(),
            "row 2: x = 2 and z = inf and y = 2 must all be finite");
  EXPECT_EQ(refused({"y", "", {1, 2}}, {{"x", "", {1, 2}}}, {1, 0}).code(), ErrorCode::bad_uncertainty);
  const Observations one = Observations::of({1, 2}, {3, 4});
  const Error index = test::caught([&] { (void)one.predictor(1); });
  EXPECT_EQ(index.code(), ErrorCode::bad_argument);
  EXPECT_EQ(index.message(), "there is no predictor 1: the observations have 1, counted from 0");
}

}  // namespace
}  // namespace truecurve
