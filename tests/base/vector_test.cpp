// Lists and tables of numbers from whatever holds them; levels and seeds that are refused where they are given.

#include "../support.hpp"

#include <array>
#include <list>
#include <type_traits>

namespace truecurve {
namespace {

TEST(Vector, IsMadeFromAnyListOfNumbers) {
  const Vector wanted = {1, 2, 3};
  const std::vector<double> numbers = {1, 2, 3};
  EXPECT_EQ(Vector(numbers), wanted);
  EXPECT_EQ(Vector(std::span(numbers)), wanted);
  EXPECT_EQ(Vector(std::array<int, 3>{1, 2, 3}), wanted);
  EXPECT_EQ(Vector(std::list<float>{1, 2, 3}), wanted);
  EXPECT_EQ(Vector(Eigen::Vector3d(1, 2, 3)), wanted);
  EXPECT_EQ(Vector(Eigen::RowVector3d(1, 2, 3)), wanted);
  const Eigen::Matrix3d table = Eigen::Vector3d(1, 2, 3).asDiagonal();
  EXPECT_EQ(Vector(table.diagonal()), wanted);
  EXPECT_EQ(Vector(table * Eigen::Vector3d::Ones()), wanted);
  EXPECT_EQ(Vector(VectorXd::LinSpaced(5, 0, 4).segment(1, 3)), wanted);
  EXPECT_EQ(Vector(3, 2.5), (Vector{2.5, 2.5, 2.5}));
  EXPECT_EQ(Vector(2), (Vector{0, 0}));
  EXPECT_TRUE(Vector().empty());
  EXPECT_NE(Vector{not_a_number}, Vector{not_a_number});
  // A vector that is handed over is not copied.
  std::vector<double> large(1000, 1);
  const double* const where = large.data();
  EXPECT_EQ(Vector(std::move(large)).data(), where);
  // Texts and tables are no lists.
  static_assert(!std::is_convertible_v<std::string, Vector>);
  static_assert(!std::is_convertible_v<std::string_view, Vector>);
  static_assert(!std::is_convertible_v<const char*, Vector>);
  static_assert(!std::is_convertible_v<Eigen::MatrixXd, Vector>);
  static_assert(!std::is_convertible_v<double, Vector>);
}

TEST(Vector, IsSeenByEigenWithoutACopy) {
  Vector numbers = {3, 4};
  EXPECT_EQ(as_eigen(numbers).norm(), 5);
  as_eigen(numbers) *= 2;
  EXPECT_EQ(numbers, (Vector{6, 8}));
  EXPECT_EQ(as_eigen(std::as_const(numbers)).data(), numbers.data());
  EXPECT_EQ(as_eigen(Vector{1, 2}).sum(), 3);
}

TEST(Matrix, KeepsRowsAndColumnsApart) {
  const Eigen::MatrixXd table = (Eigen::MatrixXd(2, 3) << 1, 2, 3, 4, 5, 6).finished();
  const Matrix matrix = table;
  ASSERT_EQ(matrix.rows(), 2u);
  ASSERT_EQ(matrix.cols(), 3u);
  EXPECT_EQ(matrix(0, 2), 3);
  EXPECT_EQ(matrix(1, 0), 4);
  EXPECT_EQ(Vector(matrix.numbers()), (Vector{1, 4, 2, 5, 3, 6})) << "column by column";
  EXPECT_EQ(as_eigen(matrix), table);
  EXPECT_EQ(Matrix(table.transpose() * table)(2, 1), 2 * 3 + 5 * 6);
  EXPECT_EQ(Matrix(2, 2), Matrix(Eigen::Matrix2d::Zero()));
  EXPECT_NE(Matrix(1, 4), Matrix(2, 2));
}

TEST(Level, IsRefusedWhereItIsGiven) {
  const double last = std::nextafter(1, 0);
  for (const double value : {0.0, 1.0, -0.5, 95.0, not_a_number, infinity, last}) {
    const Error error = test::caught([&] { (void)Level(value); });
    EXPECT_EQ(error.message().starts_with("a level must lie between 0 and 1"), value != last) << error.message();
    EXPECT_EQ(error.code(), ErrorCode::bad_argument) << value;
    EXPECT_EQ(error.subject(), "level") << value;
  }
  EXPECT_EQ(Level(0.5), 0.5);
  // The highest there is has quantiles.
  const Level highest = std::nextafter(last, 0);
  EXPECT_NEAR(normal_probability(-normal_quantile(0.5 + highest / 2)), (1 - highest) / 2, 1e-3 * (1 - highest));
  EXPECT_EQ(Level(std::numeric_limits<double>::min()).value(), std::numeric_limits<double>::min());
}

TEST(Seed, IsAWholeNumberThatIsNotNegative) {
  EXPECT_EQ(Seed(0).value(), 0u);
  EXPECT_EQ(Seed(std::numeric_limits<std::uint64_t>::max()).value(), std::numeric_limits<std::uint64_t>::max());
  EXPECT_EQ(test::caught([] { (void)Seed(-3); }).value(), "-3");
  static_assert(!std::is_convertible_v<double, Seed>);
}

// Every value of an enum has a name of its own, the same that records of 0.1 hold.
template <typename Enum>
void expect_names(const std::vector<std::string>& wanted) {
  for (std::size_t i = 0; i < wanted.size(); ++i) EXPECT_EQ(name(static_cast<Enum>(i)), wanted[i]);
  EXPECT_EQ(std::set<std::string>(wanted.begin(), wanted.end()).size(), wanted.size());
  EXPECT_EQ(name(static_cast<Enum>(wanted.size())), "") << "no value of it";
}

TEST(Names, AreThoseOfTheRecords) {
  expect_names<SolverMethod>({"blocked QR", "blocked QR, refined", "double-double QR", "variable projection",
                              "Levenberg-Marquardt", "scoring"});
  expect_names<StopReason>({"solved", "relative offset", "at a limit", "step vanished", "exact fit", "rounding",
                            "evaluations", "time limit", "stopped", "not finite"});
  expect_names<WarningCode>({"exact", "rounding", "no_degrees_of_freedom", "not_converged", "few_met",
                             "ill_conditioned", "open_end", "at_limit", "place_outside_data", "rounded_readings",
                             "separated", "ordered_shares", "cumulative_counts", "exchanged_axes", "transform_bends",
                             "weights_not_settled"});
  expect_names<RemarkCode>({"not_converged", "at_limit", "open_end", "place_outside_data", "curvature",
                            "not_told_apart", "exact", "few_rows", "same_curve", "check"});
  expect_names<LimitRouteKind>({"residual SD", "intercept SD", "blank SD", "fortified SD", "counting statistics",
                                "prediction bands", "critical value and power", "counts, paired blank",
                                "counts, known blank"});
  expect_names<AmountFlag>({"", "not detected", "below zero", "detected, below the detection limit",
                            "below the quantitation limit", "above the range", "below the range", "ambiguous"});
  expect_names<Grade>({"straggler", "outlier"});
}

}  // namespace
}  // namespace truecurve
