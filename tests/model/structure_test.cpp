// What the text of a curve shows of its parameters, against what anyone reads in it.

#include "../../src/model/model_data.hpp"
#include "../support.hpp"

namespace truecurve {
namespace {

using detail::ParameterPart;

const detail::BoundModel& bound_of(const Model& model) { return *detail::data_of(model).bound; }

// A column is a power of one predictor, or no power that others of the same predictor could be missing below.
TEST(Structure, KnowsThePowerThatAColumnIs) {
  struct Column {
    const char* text;
    int degree, predictor = 0;
  };
  for (const auto& [text, degree, predictor] : {Column{"3", 0, -1},
                                                {"x", 1},
                                                {"z", 1, 1},
                                                {"(-x)", 1},
                                                {"3*x^2", 2},
                                                {"z^2*5", 2, 1},
                                                {"x^2*x", 3},
                                                {"(2*x)^3", 3},
                                                {"(x*z)^2", -1},
                                                {"x^4/7", 4},
                                                {"x*z", -1},
                                                {"z*x^2", -1},
                                                {"x*exp(x)", -1},
                                                {"exp(x)*x", -1},
                                                {"exp(x)^2", -1},
                                                {"x^(-2)", -1},
                                                {"1/x", -1},
                                                {"x^2/z", -1},
                                                {"(1 + x)^2", -1}}) {
    const Model model = Model::written(fmt::format("y = b*{} + c*sin(x)", text), {"x", "z"});
    const detail::Monomial made = bound_of(model).monomials.at(0);
    EXPECT_EQ(made.degree, degree) << text;
    if (degree >= 0) EXPECT_EQ(made.predictor, predictor) << text;
  }
}

// Parameters enter linearly together where no derivative by one of them holds another.
TEST(Structure, KnowsTheParametersThatEnterLinearlyTogether) {
  for (const auto& [text, separable, entangled] :
       {std::tuple{"y = a*(1 + b*x) + c*x^2", std::vector{0, 2}, std::vector{1}},
        {"y = a*b*c*x", {0}, {1, 2}},
        {"y = exp(k*x)*(a + b*x) + c", {1, 2, 3}, {0}},
        {"y = x^a + x^b", {}, {0, 1}}}) {
    const Model model = Model::written(text, {"x"});
    EXPECT_EQ(bound_of(model).separable, separable) << text;
    EXPECT_EQ(bound_of(model).entangled, entangled) << text;
  }
}

// How p, the parameter that is named first, meets x.
TEST(Structure, KnowsHowAParameterMeetsThePredictor) {
  struct Met {
    const char* text;
    ParameterPart part;
    int place_sign = 0;
    double turn = 0;
  };
  constexpr double pi = std::numbers::pi;
  for (const auto& [text, part, place_sign, turn] : {Met{"y = exp(-(p - x)^2)*a", ParameterPart::place, 1},
                                                     {"y = a*exp(-(x - p)^2)", ParameterPart::place, 1},
                                                     {"y = a*exp(-(x + p)^2)", ParameterPart::place, -1},
                                                     {"y = a*exp(-(p + x)^2)", ParameterPart::place, -1},
                                                     {"y = a*exp(-(-x - p)^2)", ParameterPart::place, -1},
                                                     {"y = a*exp(-(-x + p)^2)", ParameterPart::place, 1},
                                                     {"y = a*exp(-(x + 2*p)^2)", ParameterPart::place},
                                                     {"y = a*x/(p + x)", ParameterPart::place},
                                                     {"y = a*(p + x)^(-2)", ParameterPart::place},
                                                     {"y = a/(-(p + x)^2)", ParameterPart::place},
                                                     {"y = a/(3*(p + x))", ParameterPart::place},
                                                     {"y = a*ln(p + x)", ParameterPart::place},
                                                     {"y = a*log10(x + p)", ParameterPart::place},
                                                     {"y = a*log2(x + p)", ParameterPart::place},
                                                     {"y = a*sqrt(x + p)", ParameterPart::place},
                                                     {"y = (x + p)^b", ParameterPart::place},
                                                     {"y = a*cbrt(x + p)", ParameterPart::place, -1},
                                                     {"y = a*b^(x + p)", ParameterPart::place, -1},
                                                     {"y = a*exp((x + p)/b)", ParameterPart::place, -1},
                                                     {"y = a*exp(p*x)", ParameterPart::factor},
                                                     {"y = a*exp(-x/p)", ParameterPart::divisor},
                                                     {"y = a*exp(-p/x)", ParameterPart::factor},
                                                     {"y = a*x^p", ParameterPart::exponent},
                                                     {"y = a*p^x", ParameterPart::base},
                                                     {"y = a*exp(p + x^2)", ParameterPart::other},
                                                     {"y = a*sin(2*pi*p*x + b)", ParameterPart::factor, 0, 2 * pi},
                                                     {"y = a*cos(b - 3*x/p)", ParameterPart::divisor, 0, 3},
                                                     {"y = a*exp(sin(b) - p*x)", ParameterPart::factor},
                                                     {"y = a*sin(b*p*x)", ParameterPart::factor},
                                                     {"y = a*sin(2*x + p)", ParameterPart::phase},
                                                     {"y = a*cos(2*x - p)", ParameterPart::phase},
                                                     {"y = sin(2*x + p)", ParameterPart::phase},
                                                     {"y = a*tan(p - 2*x)", ParameterPart::phase},
                                                     {"y = a*exp(2*x + p) + sin(x)", ParameterPart::other},
                                                     {"y = sin(a)*exp(p + 2*x)", ParameterPart::other}}) {
    SCOPED_TRACE(text);
    const Model model = Model::written(text, {"x"});
    const std::vector<std::string> names = model.parameters();
    const auto p = static_cast<std::size_t>(std::find(names.begin(), names.end(), "p") - names.begin());
    ASSERT_LT(p, names.size());
    EXPECT_EQ(static_cast<int>(bound_of(model).parts.at(p)), static_cast<int>(part));
    EXPECT_EQ(bound_of(model).place_signs.at(p), place_sign);
    EXPECT_NEAR(bound_of(model).turns.at(p), turn, 1e-12);
  }
}

struct Group {
  std::vector<std::string> entangled, separable;
  int family = 0;
  bool can_vanish = false;
};

// Terms that are alike are one family; those that share a parameter are one group.
TEST(Structure, KnowsTheTermsThatStandTogether) {
  const std::vector<std::pair<const char*, std::vector<Group>>> cases = {
      {"y = a*exp(-x/s) + b*exp(-x/t) + c", {{{"s"}, {"a"}, 0, true}, {{"t"}, {"b"}, 0, true}}},
      {"y = a*exp(-x/s) - b*exp(-t*x)", {{{"s"}, {"a"}, 0, true}, {{"t"}, {"b"}, 1, true}}},
      {"y = a*exp(-x/s) + b*exp(-x/s) + c", {{{"s"}, {"a", "b"}, 0, true}}},
      {"y = a*exp(-x/s) + a*x", {{{"s"}, {}, 0, false}}},
      {"y = (1 + a*x)*exp(-x/s) + b*x^t", {{{"s"}, {"a"}, 0, false}, {{"t"}, {"b"}, 1, true}}},
      {"y = a*exp(-((x - m)/w)^2) + b*exp(-((x - n)/v)^2)",
       {{{"m", "w"}, {"a"}, 0, true}, {{"n", "v"}, {"b"}, 0, true}}},
      {"y = a*exp(-x/s) + -(b*exp(-x^2/s)) + c*exp(-x/t)", {{{"s"}, {"a", "b"}, 0, true}, {{"t"}, {"c"}, 1, true}}},
      {"y = a*x^2*exp(-x/s) + b*x^3*exp(-x/t)", {{{"s"}, {"a"}, 0, true}, {{"t"}, {"b"}, 1, true}}},
  };
  for (const auto& [text, groups] : cases) {
    SCOPED_TRACE(text);
    const Model model = Model::written(text, {"x"});
    const std::vector<std::string> names = model.parameters();
    const auto named = [&names](const std::vector<int>& which) {
      std::vector<std::string> made;
      for (const int j : which) made.push_back(names[static_cast<std::size_t>(j)]);
      return made;
    };
    const std::vector<detail::TermGroup>& made = bound_of(model).groups;
    ASSERT_EQ(made.size(), groups.size());
    for (std::size_t k = 0; k < groups.size(); ++k) {
      EXPECT_EQ(named(made[k].entangled), groups[k].entangled);
      EXPECT_EQ(named(made[k].separable), groups[k].separable);
      EXPECT_EQ(made[k].family, groups[k].family);
      EXPECT_EQ(made[k].can_vanish, groups[k].can_vanish);
    }
  }
}

}  // namespace
}  // namespace truecurve
