// Residual checks: statistics against their definitions, sizes and power by simulation, and how rarely clean data are
// cautioned.

#include "../../src/assess/residual_design.hpp"
#include "../../src/base/count_tails.hpp"
#include "../support.hpp"

#include <thread>

namespace truecurve {
namespace {

using Eigen::Index;

const int share_of_sets = test::is_sanitized() ? 20 : 1;

VectorXd noise(RandomNumbers& random, Index n, double sd) {
  VectorXd values(n);
  for (double& v : values) v = sd * random.normal();
  return values;
}

// A scatter that is no straight line's: every check has something to say about it.
struct Sample {
  VectorXd x = VectorXd::LinSpaced(14, 1, 14);
  VectorXd y =
      (VectorXd(14) << 3.1, 5.2, 6.8, 9.4, 10.9, 13.5, 14.6, 17.3, 18.4, 21.6, 22.5, 27.9, 26.2, 29.0).finished();
  VectorXd u = VectorXd::LinSpaced(14, 0.3, 0.9);
};

// Each statistic as its definition writes it, from the line by the textbook's sums in long double.
// A term that is missing has the p of that term where it is there (the theorem of the added variable), scatter known or
// not.
TEST(ResidualChecks, TellATermThatIsMissing) {
  struct Case {
    const char *model, *extended, *term;
    CheckKind kind;
    const char* sentence;
  };
  const std::vector<Case> cases = {
      {"y = b*x", "y = a + b*x", "a", CheckKind::origin, "The response does not vanish at the origin: a constant term"},
      {"y = c*x^2", "y = b*x + c*x^2", "b", CheckKind::lower_power, "A term in x is missing."},
      {"y = a + c*x^2", "y = a + b*x + c*x^2", "b", CheckKind::lower_power, "A term in x is missing."},
      {"y = a + b*x + d*x^3", "y = a + b*x + c*x^2 + d*x^3", "c", CheckKind::lower_power, "A term in x^2 is missing."},
  };
  RandomNumbers random(41);
  const VectorXd x = VectorXd::LinSpaced(24, 0.5, 9);
  VectorXd y(24);
  for (Index i = 0; i < 24; ++i) y[i] = 3 + 2 * x[i] - 0.2 * x[i] * x[i] + 0.8 * random.normal();
  for (const VectorXd& u : {VectorXd(), VectorXd(VectorXd::Constant(24, 0.8))}) {
    const Observations data = u.size() == 0 ? Observations::of(x, y) : Observations::of(x, y, u);
    for (const Case& c : cases) {
      SCOPED_TRACE(c.model);
      const Check made = check(fit(Model::written(c.model), data), c.kind);
      const Fit extended = fit(Model::written(c.extended), data);
      double p = 2, value = 0;
      for (const ParameterInterval& parameter : parameter_intervals(extended.estimate(), 0.95)) {
        if (parameter.name != c.term) continue;
        p = parameter.p;
        value = parameter.value;
      }
      EXPECT_NEAR(made.p / p, 1, 1e-6);
      EXPECT_EQ(made.statistic > 0, value > 0);
      EXPECT_EQ(made.sentence.rfind(c.sentence, 0) == 0, made.is_significant()) << made.sentence;
    }
  }
  // Nothing is missing, or nothing can be said of it.
  for (const char* complete : {"y = a + b*x", "y = a + b/x", "y = b*x + c", "y = a*exp(-b*x)", "y = 3 + b*x"}) {
    const Fit made = fit(Model::written(complete), Observations::of(x, y));
    for (const Check& done : residual_checks(made)) {
      EXPECT_NE(done.kind, CheckKind::origin) << complete;
      EXPECT_NE(done.kind, CheckKind::lower_power) << complete;
    }
  }
  // One and the same term is not judged twice.
  for (const Check& done : residual_checks(fit(Model::written("y = a + c*x^2"), Observations::of(x, y))))
    EXPECT_NE(done.kind, CheckKind::curvature);
}

TEST(ResidualChecks, AreWhatTheirDefinitionsSay) {
  const Sample d;
  const Fit line = fit(shape_model("line"), Observations::of(d.x, d.y));
  long double sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (Index i = 0; i < 14; ++i) {
    sx += d.x[i];
    sy += d.y[i];
    sxx += static_cast<long double>(d.x[i]) * d.x[i];
    sxy += static_cast<long double>(d.x[i]) * d.y[i];
  }
  const long double b = (14 * sxy - sx * sy) / (14 * sxx - sx * sx);
  const long double a = (sy - b * sx) / 14;
  std::vector<long double> e(14), z(14), f(14);
  long double squares = 0;
  for (std::size_t i = 0; i < 14; ++i) {
    f[i] = a + b * d.x[static_cast<Index>(i)];
    e[i] = d.y[static_cast<Index>(i)] - f[i];
    squares += e[i] * e[i];
  }
  const long double mean_x = sx / 14;
  for (std::size_t i = 0; i < 14; ++i) {
    const long double away = d.x[static_cast<Index>(i)] - mean_x;
    z[i] = e[i] / std::sqrt(squares / 12 * (1 - 1.0L / 14 - away * away / (sxx - sx * mean_x)));
  }
  const auto correlation = [](const std::vector<long double>& one, const std::vector<long double>& other) {
    const long double m = std::accumulate(one.begin(), one.end(), 0.0L) / 14;
    const long double k = std::accumulate(other.begin(), other.end(), 0.0L) / 14;
    long double p = 0, q = 0, r = 0;
    for (std::size_t i = 0; i < 14; ++i) {
      p += (one[i] - m) * (other[i] - k);
      q += (one[i] - m) * (one[i] - m);
      r += (other[i] - k) * (other[i] - k);
    }
    return static_cast<double>(p / std::sqrt(q * r));
  };
  std::vector<long double> size(14);
  for (std::size_t i = 0; i < 14; ++i) size[i] = std::abs(z[i]);
  EXPECT_NEAR(check(line, CheckKind::equal_variance).statistic, correlation(size, f), 1e-10);

  const Fit bent = fit(shape_model("polynomial(2)"), Observations::of(d.x, d.y));
  const auto quadratic = parameter_intervals(bent.estimate(), 0.95)[2];
  EXPECT_NEAR(check(line, CheckKind::curvature).statistic, quadratic.t, 1e-9);
  EXPECT_NEAR(check(line, CheckKind::curvature).p, quadratic.p, 1e-9);

  int runs = 1;
  long double lagged = 0;
  for (std::size_t i = 1; i < 14; ++i) {
    runs += (e[i] > 0) != (e[i - 1] > 0);
    lagged += e[i] * e[i - 1];
  }
  EXPECT_EQ(check(line, CheckKind::runs).statistic, runs);
  EXPECT_NEAR(check(line, CheckKind::serial_correlation).statistic, static_cast<double>(lagged / squares), 1e-10);

  const Check outlier = check(line, CheckKind::outlier);
  EXPECT_EQ(outlier.row, 12u);
  EXPECT_NEAR(outlier.statistic, static_cast<double>(*std::max_element(size.begin(), size.end())), 1e-10);
  EXPECT_NEAR(outlier.statistic, as_eigen(row_measures(line).standardized).cwiseAbs().maxCoeff(), 1e-12);
  // Bonferroni's bound with the row's residual against the others; the exact p lies below and near it.
  const double bound = 14 * student_t_two_sided(row_measures(line).studentized[11], 11);
  EXPECT_LE(outlier.p, bound * (1 + 1e-9));
  EXPECT_GT(outlier.p, 0.6 * bound);

  // With stated uncertainties the residuals are in these.
  const Fit stated = fit(shape_model("line"), Observations::of(d.x, d.y, VectorXd::Constant(14, 0.3)));
  const double scatter = std::sqrt(line.chi_squared() / 12);
  const Check of_stated = check(stated, CheckKind::outlier);
  EXPECT_NEAR(of_stated.statistic, outlier.statistic * scatter / 0.3, 1e-10);
  EXPECT_LE(of_stated.p, std::min(1.0, 14 * std::erfc(of_stated.statistic / std::sqrt(2.0))) * (1 + 1e-9));

  for (const double u : {0.5, 1.5, 3.0}) {  // one scatter of many: more than stated, and less
    const Fit other = fit(shape_model("line"), Observations::of(d.x, d.y, VectorXd::Constant(14, u * scatter)));
    const double above = chi_squared_upper(other.chi_squared(), 12);
    EXPECT_NEAR(check(other, CheckKind::chi_squared).p, 2 * std::min(above, 1 - above), 1e-12) << u;
  }

  std::vector<long double> sorted = z;
  std::sort(sorted.begin(), sorted.end());
  const long double mean = std::accumulate(z.begin(), z.end(), 0.0L) / 14;
  long double spread = 0;
  for (const long double value : z) spread += (value - mean) * (value - mean);
  const long double sd = std::sqrt(spread / 13);
  long double sum = 0;
  for (std::size_t i = 0; i < 14; ++i) {
    const auto phi = [&](long double value) { return 0.5L * std::erfc(-(value - mean) / sd / std::sqrt(2.0L)); };
    sum += (2.0L * i + 1) * (std::log(phi(sorted[i])) + std::log(1 - phi(sorted[13 - i])));
  }
  EXPECT_NEAR(check(line, CheckKind::normality).statistic, static_cast<double>(-14 - sum / 14), 1e-7);
}

// A p-value by draws is one of so many equal steps: a thousandth where no check comes near to being significant, a
// five-thousandth where one does.
TEST(ResidualChecks, DrawMoreWhereItMatters) {
  RandomNumbers random(78);
  int with_few = 0, with_many = 0;
  for (int set = 0; set < 40; ++set) {
    const std::vector<Check> family = residual_checks(
        fit(shape_model("line"), Observations::of(VectorXd(VectorXd::LinSpaced(12, 1, 12)), noise(random, 12, 1))));
    double smallest = 1;
    bool is_fine = false;
    for (const Check& each : family) {
      smallest = std::min(smallest, each.family_p);
      const double thousands = 1000 * each.family_p;
      EXPECT_NEAR(5 * thousands, std::round(5 * thousands), 1e-9);
      is_fine = is_fine || std::abs(thousands - std::round(thousands)) > 1e-9;
    }
    if (smallest > 0.15) EXPECT_FALSE(is_fine) << smallest;
    if (smallest < 0.1) EXPECT_TRUE(is_fine) << smallest;
    with_few += smallest > 0.15;
    with_many += smallest < 0.1;
  }
  EXPECT_GE(with_few, 5);
  EXPECT_GE(with_many, 2);
}

// Of readings that are rounded as coarsely as they scatter, and weighted, the simulated residuals are those of readings
// drawn about the curve, each with its own scatter, and rounded to the step: their mean squares by rows of small and of
// large readings agree with such readings made here.
TEST(ResidualDesign, RoundsWeightedReadingsByTheirOwnScatter) {
  RandomNumbers random(31);
  VectorXd x(24), y(24);
  for (Index i = 0; i < 24; ++i) {
    x[i] = i < 12 ? 2.3 + 0.05 * static_cast<double>(i) : 60 + static_cast<double>(i);
    y[i] = std::round(2 * x[i] * (1 + 0.1 * random.normal()));
  }
  const Fit made = fit(Model::written("y = b*x"), Observations::of(x, y), {.spread = Spread::proportional()});
  const detail::ResidualDesign design(made);
  ASSERT_TRUE(design.is_rounded());
  const VectorXd curve = as_eigen(made.fitted());
  const double mean_square = design.residuals().squaredNorm() / design.degrees_of_freedom();
  const double sigma = std::sqrt(mean_square - design.rounding());
  const VectorXd root = design.residuals().cwiseQuotient(y - curve);  // of the weights
  const VectorXd basis = x.cwiseProduct(root).normalized();
  for (Index i = 0; i < 24; ++i) {
    const double beyond = std::max(0.0, std::abs(y[i] - curve[i]) - 0.5) * root[i];
    EXPECT_NEAR(design.beyond_rounding(i), beyond / std::sqrt(1 - basis[i] * basis[i]) / sigma, 1e-9) << i;
  }
  Eigen::Vector4d squares = Eigen::Vector4d::Zero();  // of the design's, then of ours; of small readings and of large
  constexpr int sets = 4000;
  for (int set = 0; set < sets; ++set) {
    const VectorXd theirs = design.simulated(random);
    VectorXd ours(24);
    for (Index i = 0; i < 24; ++i)
      ours[i] = (std::round(curve[i] + sigma / root[i] * random.normal()) - curve[i]) * root[i];
    ours -= basis * basis.dot(ours);
    squares += Eigen::Vector4d(theirs.head(12).squaredNorm(), theirs.tail(12).squaredNorm(),
                               ours.head(12).squaredNorm(), ours.tail(12).squaredNorm());
  }
  // Each sum of 12 squares scatters by about 0.4 of itself.
  EXPECT_NEAR(squares[0] / squares[2], 1, 4.5 * 0.4 * std::sqrt(2.0 / sets));
  EXPECT_NEAR(squares[1] / squares[3], 1, 4.5 * 0.4 * std::sqrt(2.0 / sets));
  EXPECT_GT(squares[0], 1.05 * sigma * sigma * 11 * sets) << "rounding adds to the scatter of small readings";
}

// One check alone is a family of one: by the same draws its p is the family's, and where the p is known the draws give
// it within their scatter. Of several, a family's p is no smaller than its own and no larger than Bonferroni's.
TEST(ResidualChecks, OfAFamilyOfOneHaveItsP) {
  constexpr double draws = 4999;
  RandomNumbers random(77);
  for (int set = 0; set < 3; ++set) {
    const Fit line =
        fit(shape_model("line"), Observations::of(VectorXd(VectorXd::LinSpaced(12, 1, 12)), noise(random, 12, 1)));
    const std::vector<Check> family = residual_checks(line);
    ASSERT_GE(family.size(), 5u);
    const auto scatter = [](double p) { return 4.5 * std::sqrt(p * (1 - p) / 999) + 2 / draws; };
    for (const Check& each : family) {
      SCOPED_TRACE(name(each.kind));
      const Check alone = check(line, each.kind);
      if (each.kind == CheckKind::runs) {
        EXPECT_LE(alone.family_p, alone.p);
        continue;
      }
      const bool by_draws = each.kind == CheckKind::serial_correlation || each.kind == CheckKind::normality ||
                            each.kind == CheckKind::equal_variance;
      if (by_draws) EXPECT_EQ(alone.family_p, alone.p);
      EXPECT_NEAR(alone.family_p, alone.p, scatter(alone.p));
      EXPECT_GE(each.family_p, alone.p - scatter(alone.p));
      EXPECT_LE(each.family_p, alone.p * static_cast<double>(family.size()) + scatter(alone.p));
    }
  }
}

// Which checks so many rows allow.
TEST(ResidualChecks, NeedRowsAndDegreesOfFreedom) {
  const auto kinds_of = [](const char* model, int rows) {
    std::vector<double> x, y;
    for (int i = 1; i <= rows; ++i) {
      x.push_back(i);
      y.push_back(std::sqrt(7 * i) + 0.1 * std::sin(5 * i * i));
    }
    std::set<CheckKind> kinds;
    for (const Check& each : residual_checks(fit(Model::written(model), Observations::of(x, y))))
      kinds.insert(each.kind);
    return kinds;
  };
  struct Case {
    const char* model;
    int rows;
    bool runs, variance, normality;
  };
  for (const Case& c : {Case{"y = a + b*x", 3, false, false, false}, Case{"y = a + b*x", 4, false, false, false},
                        Case{"y = a + b*x", 5, false, true, false}, Case{"y = a + b*x", 6, true, true, false},
                        Case{"y = a", 5, false, false, false}, Case{"y = a + b*x + c*x^2", 6, false, true, false},
                        Case{"y = a + b*x + c*x^2", 7, true, true, false}}) {
    SCOPED_TRACE(fmt::format("{} of {} rows", c.model, c.rows));
    const std::set<CheckKind> kinds = kinds_of(c.model, c.rows);
    EXPECT_EQ(kinds.contains(CheckKind::runs), c.runs);
    EXPECT_EQ(kinds.contains(CheckKind::serial_correlation), c.runs);
    EXPECT_EQ(kinds.contains(CheckKind::equal_variance), c.variance);
    EXPECT_EQ(kinds.contains(CheckKind::normality), c.normality);
    EXPECT_EQ(kinds.contains(CheckKind::outlier), c.rows > 3);
    EXPECT_EQ(kinds.contains(CheckKind::curvature), c.rows > 3 && !std::string(c.model).ends_with("x^2"));
  }
}

// What is concluded from a fit is computed once and shared; whoever asks, and from whichever thread, gets the same.
TEST(ResidualChecks, AreTheSameForAllWhoAsk) {
  const auto made = [] {
    std::vector<double> x, y;
    for (int i = 0; i < 40; ++i) {
      x.push_back(i % 20);
      y.push_back(2 + 0.3 * x.back() + 0.1 * ((7 * i) % 11));
    }
    return fit(shape_model("line"), Observations::of(x, y));
  };
  const Fit shared = made();
  const Fit copy = shared;
  std::vector<std::vector<Check>> seen(4);
  std::vector<Quality> qualities(4);
  std::vector<std::thread> threads;
  for (std::size_t k = 0; k < seen.size(); ++k) {
    threads.emplace_back([&, k] {
      const Fit& asked = k % 2 == 0 ? shared : copy;
      seen[k] = residual_checks(asked);
      qualities[k] = quality_of(asked);
    });
  }
  for (std::thread& thread : threads) thread.join();
  const std::vector<Check> alone = residual_checks(made());
  ASSERT_FALSE(alone.empty());
  for (std::size_t k = 0; k < seen.size(); ++k) {
    ASSERT_EQ(seen[k].size(), alone.size());
    for (std::size_t c = 0; c < alone.size(); ++c) {
      EXPECT_EQ(seen[k][c].kind, alone[c].kind);
      EXPECT_EQ(seen[k][c].p, alone[c].p);
    }
    EXPECT_EQ(qualities[k].aicc, quality_of(made()).aicc);
  }
  // Another fit remembers nothing of it.
  const Fit other = fit(shape_model("polynomial(2)"), shared.observations());
  EXPECT_NE(quality_of(other).aicc, qualities[0].aicc);
  EXPECT_NE(variance_table(other).explained.sum_of_squares, variance_table(shared).explained.sum_of_squares);
}

TEST(ResidualChecks, KnowWeightsReplicatesAndTheOrderOfMeasurement) {
  const Sample d;
  // Stated uncertainties: chi-squared, both tails.
  const Fit stated = fit(shape_model("line"), Observations::of(d.x, d.y, d.u));
  const Check chi = check(stated, CheckKind::chi_squared);
  EXPECT_NEAR(chi.statistic, stated.chi_squared(), 1e-12);
  const double upper = chi_squared_upper(stated.chi_squared(), 12);
  EXPECT_NEAR(chi.p, 2 * std::min(upper, 1 - upper), 1e-12);
  EXPECT_TRUE(std::isnan(check(fit(shape_model("line"), Observations::of(d.x, d.y)), CheckKind::chi_squared).p));
  // Replicates, with unequal weights within a level: the variance table's split.
  VectorXd levels = d.x;
  for (Index i = 0; i < 14; ++i) levels[i] = static_cast<double>(i / 2);
  const Fit replicated = fit(shape_model("line"), Observations::of(levels, d.y, d.u));
  const auto split = lack_of_fit(replicated);
  ASSERT_TRUE(split.has_value());
  EXPECT_NEAR(check(replicated, CheckKind::lack_of_fit).statistic, split->lack_of_fit.f, 1e-9);
  EXPECT_NEAR(check(replicated, CheckKind::lack_of_fit).p, split->lack_of_fit.p, 1e-9);
  // The drift is the t of the order of measurement added as a predictor; along x it is not told from the curve.
  EXPECT_TRUE(std::isnan(check(fit(shape_model("line"), Observations::of(d.x, d.y)), CheckKind::drift).p));
  const std::vector<double> order = {4, 11, 2, 14, 7, 1, 9, 13, 3, 6, 12, 8, 5, 10};
  const Table table = Table::from_columns(
      {{"x", "", {d.x.begin(), d.x.end()}}, {"y", "", {d.y.begin(), d.y.end()}}, {"t", "s", order}});
  const Fit timed = fit(shape_model("line"), Observations(table, {.response = "y", .predictors = {"x"}, .order = "t"}));
  const Fit with_time =
      fit(Model::written("y = a + b*x + c*t"), Observations(table, {.response = "y", .predictors = {"x", "t"}}));
  const auto added = parameter_intervals(with_time.estimate(), 0.95)[2];
  EXPECT_NEAR(check(timed, CheckKind::drift).statistic, added.t, 1e-9);
  EXPECT_NEAR(check(timed, CheckKind::drift).p, added.p, 1e-9);
  // Rows of equal x count by their mean, so their order within the table changes nothing but the drift.
  const std::vector<Index> turned = {1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12};
  const Fit other = fit(shape_model("line"), Observations::of(levels(turned), d.y(turned), d.u(turned)));
  for (const CheckKind kind :
       {CheckKind::runs, CheckKind::serial_correlation, CheckKind::normality, CheckKind::outlier})
    EXPECT_NEAR(check(replicated, kind).statistic, check(other, kind).statistic, 1e-10) << name(kind);
}

// Ten signs in turn: of 252 orders of five signs each two have ten runs, and two have two.
TEST(ResidualChecks, CountRunsOnBothSides) {
  const auto p_of = [](Index n, auto sign) {
    VectorXd y(n);
    for (Index i = 0; i < n; ++i) y[i] = std::sqrt(2) * sign(i);  // no rounded readings
    return check(fit(Model::written("y = m"), Observations::of(VectorXd::LinSpaced(n, 1, static_cast<double>(n)), y)),
                 CheckKind::runs)
        .p;
  };
  const auto in_turn = [](Index i) { return i % 2 == 0 ? 1.0 : -1.0; };
  EXPECT_LT(p_of(10, in_turn), 0.02);
  EXPECT_LT(p_of(10, [](Index i) { return i < 5 ? 1.0 : -1.0; }), 0.03);
  // Beyond the simulated rows by the exact distribution: blocks of four signs, too few runs, and pairs, as chance
  // gives.
  EXPECT_LT(p_of(1200, [](Index i) { return i / 4 % 2 == 0 ? 1.0 : -1.0; }), 1e-60);
  EXPECT_GT(p_of(1200, [](Index i) { return i / 2 % 2 == 0 ? 1.0 : -1.0; }), 0.9);
  // One sign, or two, at an end: two of the 1200 orders, and two of the 1200*1199/2, have two runs.
  EXPECT_NEAR(p_of(1200, [](Index i) { return i == 1199 ? 1199.0 : -1.0; }) / (4.0 / 1200), 1, 1e-9);
  EXPECT_NEAR(p_of(1200, [](Index i) { return i > 1197 ? 599.0 : -1.0; }) / (4.0 / (600 * 1199)), 1, 1e-9);
  EXPECT_EQ(p_of(1200, [](Index i) { return i == 600 ? 1199.0 : -1.0; }), 1);
}

TEST(ResidualChecks, OfManyRowsStayWithinTheRangeOfTheirFormulas) {
  RandomNumbers random(3);
  const Index n = 3000;
  const VectorXd x = VectorXd::LinSpaced(n, 0, 1);
  VectorXd y = noise(random, n, 1);
  EXPECT_GT(check(fit(shape_model("line"), Observations::of(x, y)), CheckKind::normality).p, 0.01);
  VectorXd heavy = y;
  for (double& v : heavy) v *= v * v;
  EXPECT_LT(check(fit(shape_model("line"), Observations::of(x, heavy)), CheckKind::normality).p, 1e-20);
  VectorXd gross = y;
  gross[1500] = 1e6;
  const Fit far = fit(shape_model("line"), Observations::of(x, gross));
  EXPECT_LT(check(far, CheckKind::normality).p, 1e-20);
  EXPECT_EQ(check(far, CheckKind::outlier).row, 1501u);
  EXPECT_LT(check(far, CheckKind::outlier).p, 1e-100);
  // The four pieces of the published curve of p, for statistics from the middle of each and from beside their ends.
  int pieces[4] = {};
  for (int set = 0; set < 400; ++set) {
    const Fit made =
        fit(shape_model("line"), Observations::of(VectorXd(VectorXd::LinSpaced(1001, 0, 1)), noise(random, 1001, 1)));
    const Check normal = check(made, CheckKind::normality);
    const double a = normal.statistic * (1 + 0.75 / 1001 + 2.25 / (1001.0 * 1001));
    const int piece = a < 0.2 ? 0 : a < 0.34 ? 1 : a < 0.6 ? 2 : 3;
    ++pieces[piece];
    const double of_piece[] = {
        1 - std::exp(-13.436 + 101.14 * a - 223.73 * a * a), 1 - std::exp(-8.318 + 42.796 * a - 59.938 * a * a),
        std::exp(0.9177 - 4.279 * a - 1.38 * a * a), std::exp(1.2937 - 5.709 * a + 0.0186 * a * a)};
    EXPECT_NEAR(normal.p, of_piece[piece], 1e-12) << a;
    EXPECT_LE(check(made, CheckKind::outlier).p, 1);
    for (const Check& each : residual_checks(made)) EXPECT_LE(each.family_p, 1);
    if (set > 2) continue;
    EXPECT_EQ(check(fit(shape_model("line"), Observations::of(x, y, VectorXd::Constant(n, 1.2))), CheckKind::outlier).p,
              1);
  }
  for (const int seen : pieces) EXPECT_GE(seen, 10);
  // Rounding has no distribution.
  EXPECT_TRUE(residual_checks(fit(shape_model("line"), Observations::of(x, 2 * x))).empty());
}

// A stated uncertainty has the rounding in it, and on a transformed side the steps are none.
TEST(ResidualDesign, KnowsTheStepOnlyOfMeasuredScatter) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 12);
  const VectorXd y = test::vector({2, 4, 7, 8, 10, 13, 14, 15, 18, 21, 22, 24});
  const auto is_rounded = [](const Fit& fit) { return detail::ResidualDesign(fit).is_rounded(); };
  EXPECT_TRUE(is_rounded(fit(Model::written("y = a + b*x"), Observations::of(x, y))));
  EXPECT_FALSE(is_rounded(fit(Model::written("y = a + b*x"), Observations::of(x, y, VectorXd::Constant(12, 0.5)))));
  EXPECT_FALSE(is_rounded(fit(Model::written("ln(y) = a + b*ln(x)"), Observations::of(x, y))));
}

// Simulated residuals of a counted response scatter about 0, each as its leverage leaves it.
TEST(ResidualDesign, DrawsCountsAboutTheirMeans) {
  const Fit made =
      fit(shape_model("share-logistic"), Observations::counted({0, 1, 2, 3, 4, 5}, {2, 5, 12, 20, 26, 27},
                                                               std::vector<double>(6, 30), ResponseKind::events));
  const detail::ResidualDesign design(made);
  RandomNumbers random(3);
  constexpr int draws = 4000;
  VectorXd sum = VectorXd::Zero(6);
  VectorXd squares = VectorXd::Zero(6);
  for (int i = 0; i < draws; ++i) {
    const VectorXd drawn = design.simulated(random);
    sum += drawn;
    squares += drawn.cwiseAbs2();
  }
  for (Index i = 0; i < 6; ++i) {
    const double left = 1 - made.leverage()[static_cast<std::size_t>(i)];
    EXPECT_NEAR(sum[i] / draws, 0, 4.5 * std::sqrt(left / draws)) << i;
    EXPECT_NEAR(squares[i] / draws, left, 8 * left / std::sqrt(draws)) << i;
  }
}

// Of many rows at few places, runs and serial correlation are those of the places, drawn there: they scatter as those
// of residuals that are simulated at every row. Unequal weights, unequal numbers of rows.
TEST(ResidualDesign, DrawsAtThePlacesWhatAllRowsWouldGive) {
  RandomNumbers random(14);
  VectorXd x(60), y(60), u(60);
  for (Index i = 0; i < 60; ++i) {
    x[i] = std::floor(std::sqrt(static_cast<double>(i)));  // 1, 3, 5, ... rows at a place
    u[i] = i % 3 == 0 ? 0.2 : 1;
    y[i] = 3 + x[i] + u[i] * random.normal();
  }
  const detail::ResidualDesign design(fit(Model::written("y = a + b*x + c*x^2"), Observations::of(x, y, u)));
  ASSERT_EQ(design.places(), 8);
  const std::vector<CheckKind> kinds = {CheckKind::runs, CheckKind::serial_correlation};
  constexpr int draws = 6000;
  MatrixXd at_rows(draws, 2);
  MatrixXd at_places(draws, 2);
  for (Index i = 0; i < draws; ++i) {
    at_rows.row(i) = design.statistics(kinds, design.simulated(random));
    for (Index k = 0; k < 2; ++k) at_places(i, k) = design.drawn_along(kinds[static_cast<std::size_t>(k)], random);
  }
  for (Index k = 0; k < 2; ++k) {
    const double mean = at_rows.col(k).mean();
    const VectorXd away = at_rows.col(k).array() - mean;
    const VectorXd away_at_places = at_places.col(k).array() - at_places.col(k).mean();
    const double sd = std::sqrt(away.squaredNorm() / draws);
    EXPECT_NEAR(at_places.col(k).mean(), mean, 4.5 * sd * std::sqrt(2.0 / draws)) << k;
    EXPECT_NEAR(away_at_places.norm() / away.norm(), 1, 4.5 / std::sqrt(draws)) << k;
  }
}

// Of thousands of rows at twelve places, the places are what stands beside one another. Clean data are cautioned of no
// more than chance; a wave that each place shows is found.
TEST(ResidualChecks, OfManyRowsAtFewPlacesSpeakOfThePlaces) {
  RandomNumbers random(21);
  constexpr Index n = 1200;
  int low = 0;
  constexpr int sets = 60;
  for (int set = 0; set <= sets; ++set) {
    const bool waves = set == sets;
    VectorXd x(n), y(n);
    for (Index i = 0; i < n; ++i) {
      x[i] = static_cast<double>(i % 12);
      y[i] = 5 + 2 * x[i] + random.normal() + (waves ? std::sin(x[i]) : 0);
    }
    const Fit made = fit(shape_model("line"), Observations::of(x, y));
    const Check serial = check(made, CheckKind::serial_correlation);
    if (!waves) {
      low += (serial.p < 0.05) + (check(made, CheckKind::runs).p < 0.05);
    } else {
      EXPECT_LT(serial.p, 0.01);
      EXPECT_GT(serial.statistic, 0.2);
    }
  }
  EXPECT_LE(low, 14) << "6 of 120 are expected, with a scatter of 2.4";
}

// Signs, sizes and shape of readings that are rounded as coarsely as they scatter are those of the steps. They are
// simulated, as long as that is done soon; of more rows the checks are not made that would have to be.
TEST(ResidualChecks, OfManyRoundedReadingsKnowTheirSteps) {
  RandomNumbers random(5);
  const auto rounded = [&random](Index n, double scatter) {
    const VectorXd x = VectorXd::LinSpaced(n, 0, 40);
    VectorXd y(n);
    for (Index i = 0; i < n; ++i) y[i] = std::round(20 + 2 * x[i] + scatter * random.normal());
    return Observations::of(x, y);
  };
  const Fit simulated = fit(shape_model("line"), rounded(20000, 1));
  // By the limits p is about 1e-8.
  EXPECT_GT(check(simulated, CheckKind::runs).p, 0.005);
  const double p = check(simulated, CheckKind::normality).p;
  EXPECT_NEAR(251 * p, std::round(251 * p), 1e-9) << "one of 250 draws and the observed";
  const auto kinds = [](const Fit& made) {
    std::vector<CheckKind> result;
    for (const Check& each : residual_checks(made)) {
      result.push_back(each.kind);
      EXPECT_FALSE(each.is_significant()) << each.sentence;
    }
    return result;
  };
  EXPECT_EQ(kinds(fit(shape_model("line"), rounded(26000, 1))),
            (std::vector{CheckKind::curvature, CheckKind::serial_correlation, CheckKind::outlier}));
  // Where rounding is most of the scatter, neighbours share its error, and a reading that is a step off is no outlier.
  const Observations coarse = rounded(26000, 0.2);
  EXPECT_EQ(kinds(fit(shape_model("line"), coarse)), (std::vector{CheckKind::curvature, CheckKind::outlier}));
  EXPECT_EQ(check(fit(shape_model("line"), coarse), CheckKind::outlier).p, 1);
  VectorXd y = as_eigen(coarse.responses());
  y[7000] += 3;
  const Fit off = fit(shape_model("line"), Observations::of(as_eigen(coarse.predictor(0)), y));
  EXPECT_LT(check(off, CheckKind::outlier).p, 1e-10);
  EXPECT_EQ(check(off, CheckKind::outlier).row, 7001u);
  // The limits of readings that are not rounded stay.
  const VectorXd x = VectorXd::LinSpaced(26000, 0, 40);
  EXPECT_EQ(kinds(fit(shape_model("line"), Observations::of(x, noise(random, 26000, 1)))).size(), 6u);
}

// Counts that scatter more than counts, by the quantiles of evenly spread probabilities drawn out: found in 1500 rows
// as in 900. More than can be simulated have no checks.
TEST(ResidualChecks, OfManyCountsAreSimulated) {
  RandomNumbers random(8);
  for (const std::size_t n : {900u, 1500u, 26000u}) {
    for (const double mean_size : {1.0, 4.0}) {  // counted in so many at once
      std::vector<double> x, counts;
      for (std::size_t i = 0; i < n; ++i) {
        x.push_back(static_cast<double>(i % 10));
        const double mean = (20 + x.back()) / mean_size;
        counts.push_back(mean_size * detail::poisson_quantile(random.uniform(), mean));
      }
      const Fit made =
          fit(shape_model("line"), Observations::counted(x, counts, std::vector<double>(n, 1), ResponseKind::counts));
      const std::vector<Check> checks = residual_checks(made);
      EXPECT_EQ(checks.empty(), n == 26000) << n;
      for (const Check& each : checks) {
        if (each.kind == CheckKind::chi_squared) EXPECT_EQ(each.is_significant(), mean_size > 1) << n << each.sentence;
      }
    }
  }
}

// Of clean data every test at 5 % errs in 5 %, and one or more of all together in 5 %.
TEST(ResidualChecks, KeepTheirLevelForFewRows) {
  const int sets = 500 / share_of_sets;
  for (const auto& [shape, n] : {std::pair{"line", 8}, {"polynomial(2)", 8}, {"polynomial(3)", 12}, {"line", 30}}) {
    SCOPED_TRACE(testing::Message() << shape << " of " << n);
    RandomNumbers random(11);
    std::map<CheckKind, int> alone;
    int any = 0;
    std::vector<Index> shuffled(static_cast<std::size_t>(n));
    std::iota(shuffled.begin(), shuffled.end(), Index{0});
    for (std::size_t i = shuffled.size(); i > 1; --i)
      std::swap(shuffled[i - 1], shuffled[static_cast<std::size_t>(random.uniform() * static_cast<double>(i))]);
    const VectorXd x = VectorXd::LinSpaced(n, 0, 1)(shuffled);
    for (int set = 0; set < sets; ++set) {
      const Fit made = fit(shape_model(shape), Observations::of(x, noise(random, n, 1), VectorXd::Constant(n, 1)));
      const std::vector<Check> checks = residual_checks(made);
      for (const Check& c : checks) alone[c.kind] += c.p < 0.05;
      any += std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.is_significant(); });
    }
    const double error = 4 * std::sqrt(0.05 * 0.95 / sets);
    EXPECT_NEAR(static_cast<double>(any) / sets, 0.05, error);
    EXPECT_GE(alone.size(), 7u);
    for (const auto& [kind, count] : alone) {
      EXPECT_LT(static_cast<double>(count) / sets, 0.05 + error) << name(kind);
      // Counts of runs come in steps, and few rows have few of them.
      if (kind != CheckKind::runs) EXPECT_GT(static_cast<double>(count) / sets, 0.05 - error) << name(kind);
    }
  }
}

// What they are made to see.
TEST(ResidualChecks, HavePower) {
  const int sets = 150 / share_of_sets;
  RandomNumbers random(21);
  const auto share = [&](CheckKind kind, Index n, auto disturb) {
    int found = 0;
    const VectorXd x = VectorXd::LinSpaced(n, 0, 1);
    for (int set = 0; set < sets; ++set) {
      VectorXd y = noise(random, n, 1);
      const std::size_t row = disturb(x, y, set);
      const Check made = check(fit(shape_model("line"), Observations::of(x, y)), kind);
      found += made.p < 0.05 && (row == 0 || made.row == row);
    }
    return static_cast<double>(found) / sets;
  };
  // A row six standard deviations off among twelve.
  EXPECT_GT(share(CheckKind::outlier, 12,
                  [](const VectorXd&, VectorXd& y, int set) {
                    const Index row = 1 + set % 10;
                    y[row] += set % 2 == 0 ? 6 : -6;
                    return static_cast<std::size_t>(row) + 1;
                  }),
            0.84);
  const auto fan = [](const VectorXd& x, VectorXd& y, int) {
    y = y.array() * (1 + 4 * x.array());
    return std::size_t{0};
  };
  EXPECT_GT(share(CheckKind::equal_variance, 40, fan), 0.74);
  const auto bend = [](const VectorXd& x, VectorXd& y, int) {
    y = y.array() + 8 * (x.array() - 0.5).square();
    return std::size_t{0};
  };
  EXPECT_GT(share(CheckKind::curvature, 20, bend), 0.69);
  const auto wave = [](const VectorXd& x, VectorXd& y, int) {
    y = y.array() + 1.5 * (9.42 * x.array()).sin();
    return std::size_t{0};
  };
  EXPECT_GT(share(CheckKind::serial_correlation, 20, wave), 0.6);
  // A drift of two standard deviations while x is measured in another order.
  int seen = 0;
  for (int set = 0; set < sets; ++set) {
    VectorXd x(24);
    VectorXd y = noise(random, 24, 1);
    for (Index i = 0; i < 24; ++i) {
      x[i] = static_cast<double>(i * 7 % 24);
      y[i] += 0.5 * x[i] + 2.0 * static_cast<double>(i) / 23;
    }
    seen += check(fit(shape_model("line"), Observations::of(x, y)), CheckKind::drift).p < 0.05;
  }
  EXPECT_GT(static_cast<double>(seen) / sets, 0.66);
}

// Cautions of any kind (checks, doubts, warnings) on data that are just what the model says: hardly more than one in
// twenty.
TEST(CleanData, AreRarelyCautioned) {
  const int sets = 60 / share_of_sets;
  struct Clean {
    const char* shape;
    double (*curve)(double);
  };
  const Clean cases[] = {{"line", [](double x) { return 2 + 0.5 * x; }},
                         {"polynomial(2)", [](double x) { return 1 + x - 0.08 * x * x; }},
                         {"exponential-offset-time-constant", [](double x) { return 1 + 5 * std::exp(-x / 2.5); }},
                         {"logistic", [](double x) { return 6 / (1 + std::exp(-1.2 * (x - 4))); }}};
  int cautioned = 0, made = 0;
  for (const Clean& c : cases) {
    for (const Index n : {8, 15, 30, 100}) {
      RandomNumbers random(500 + static_cast<std::uint64_t>(n));
      const VectorXd x = VectorXd::LinSpaced(n, 0, 10);
      int here = 0;
      for (int set = 0; set < sets; ++set) {
        VectorXd y = noise(random, n, 0.1);
        for (Index i = 0; i < n; ++i) y[i] += c.curve(x[i]);
        const bool stated = set % 2 == 0;
        const Fit fitted =
            fit(shape_model(c.shape), Observations::of(x, y, stated ? VectorXd::Constant(n, 0.1) : VectorXd()));
        const std::vector<Check> checks = residual_checks(fitted);
        here += std::any_of(checks.begin(), checks.end(), [](const Check& k) { return k.is_significant(); }) ||
                !trust_of(fitted, 0.95).sentences.empty() || !fitted.warnings().empty();
      }
      EXPECT_LE(here, sets / 7 + 3) << c.shape << " of " << n;
      cautioned += here;
      made += sets;
    }
  }
  // The ladder of degrees: a remark on any candidate that holds the truth, or on the comparison.
  for (const Index n : {8, 15, 30}) {
    RandomNumbers random(900 + static_cast<std::uint64_t>(n));
    const VectorXd x = VectorXd::LinSpaced(n, 0, 10);
    for (int set = 0; set < sets; ++set) {
      VectorXd y = noise(random, n, 0.1);
      y += 0.5 * x;
      std::vector<Fit> ladder;
      for (int degree = 1; degree <= 4; ++degree)
        ladder.push_back(fit(shape_model(fmt::format("polynomial({})", degree)), Observations::of(x, y)));
      const Comparison comparison = compare(ladder);
      cautioned += std::any_of(comparison.candidates.begin(), comparison.candidates.end(), [](const Candidate& c) {
        return std::any_of(c.remarks.begin(), c.remarks.end(),
                           [](const CandidateRemark& r) { return r.code != RemarkCode::few_rows; });
      });
      ++made;
    }
  }
  const double error = std::sqrt(0.05 * 0.95 / made);
  EXPECT_LT(static_cast<double>(cautioned) / made, std::max(0.07, 0.05 + 4 * error)) << cautioned << " of " << made;
}

// Deleting a row by hand must give what the formulas say without refitting.
TEST(RowMeasures, AreWhatDeletionGives) {
  const Observations data = test::line_rows(14, 5);
  const Fit all = fit(shape_model("line"), data);
  const RowMeasures measures = row_measures(all);
  const double s = all.estimate().scale();
  for (const std::size_t row : {1u, 7u, 14u}) {
    const Fit without = fit(shape_model("line"), data.without(std::span(&row, 1), "test"));
    const auto i = static_cast<Index>(row - 1);
    const BandPoint at = band_at(without.estimate(), VectorXd::Constant(1, data.predictor(0)[i]), 0.95)[0];
    const double deleted =
        (data.responses()[i] - at.value) / std::hypot(without.estimate().scale(), at.standard_uncertainty);
    EXPECT_NEAR(measures.studentized[i], deleted, 1e-10);
    const VectorXd moved = as_eigen(all.fitted()) -
                           band_at(without.estimate(), VectorXd::Zero(1), 0.95)[0].value * VectorXd::Ones(14) -
                           without.parameter("b").value * as_eigen(data.predictor(0));
    EXPECT_NEAR(measures.cook_distance[i], moved.squaredNorm() / (2 * s * s), 1e-10);
  }
}

// Against a stated uncertainty every residual is compared with that.
TEST(RowMeasures, OfStatedUncertaintiesUseThem) {
  const Fit made =
      fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5}, {1.1, 1.9, 3.2, 3.9, 5.3}, {1, 1, 1, 1, 1}));
  const RowMeasures measures = row_measures(made);
  for (std::size_t i = 0; i < 5; ++i) {
    const double expected = made.residuals()[i] / std::sqrt(1 - measures.leverage[i]);
    EXPECT_NEAR(measures.standardized[i], expected, 1e-12);
    EXPECT_NEAR(measures.studentized[i], expected, 1e-12);
  }
}

// With two, those of the others have one.
TEST(RowMeasures, OfTwoDegreesOfFreedomCompareWithOne) {
  const RowMeasures measures =
      row_measures(fit(shape_model("line"), Observations::of({1, 2, 3, 4}, {1.1, 1.9, 3.2, 3.9})));
  for (std::size_t i = 0; i < 4; ++i) {
    const double r = measures.standardized[i];
    EXPECT_NEAR(measures.studentized[i], r / std::sqrt(2 - r * r), 1e-12);
  }
}

// With one degree of freedom the other rows leave none to estimate a scatter by.
TEST(RowMeasures, OfOneDegreeOfFreedomHaveNoOtherScatter) {
  for (const double last : {2.9, 3.1, 3.7, 4.3}) {
    const Fit line = fit(shape_model("line"), Observations::of({1, 2, 3}, {1.1, 1.9, last}));
    const RowMeasures measures = row_measures(line);
    for (std::size_t i = 0; i < 3; ++i) {
      EXPECT_NEAR(std::abs(measures.standardized[i]), 1, 1e-9);
      EXPECT_TRUE(std::isnan(measures.studentized[i])) << last;
    }
  }
}

}  // namespace
}  // namespace truecurve
