// Fits a model that is C++ code: the cooling of a casting with heat lost by radiation too, which no formula gives.
//
// The temperature follows dT/dt = -(T - T_s)/tau - r (T^4 - T_s^4), integrated by fixed Runge-Kutta steps from the
// pouring temperature. Written for any scalar, the same code gives exact derivatives; written for double, differences.
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <filesystem>
#include <iostream>
#include <span>

#include <fmt/format.h>

namespace tc = truecurve;

namespace {

constexpr double zero_celsius = 273.15;  // K
constexpr double surroundings = 24;      // degC, known

// Temperature after `t` minutes: p holds the pouring temperature (degC), tau (min) and the share of radiation,
// r = p[2]*1e-12 per minute and K^3.
struct Cooling {
  double longest_step = 2;  // min; captured state

  template <typename Scalar>
  Scalar operator()(double t, std::span<const Scalar> p) const {
    const auto loss = [&p](const Scalar& kelvin) {
      const double room = surroundings + zero_celsius;
      return -(kelvin - room) / p[1] - p[2] * 1e-12 * (kelvin * kelvin * kelvin * kelvin - room * room * room * room);
    };
    Scalar kelvin = p[0] + zero_celsius;
    const int steps = static_cast<int>(t / longest_step) + 1;
    const double h = t / steps;
    for (int i = 0; i < steps; ++i) {
      const Scalar k1 = loss(kelvin);
      const Scalar k2 = loss(kelvin + 0.5 * h * k1);
      const Scalar k3 = loss(kelvin + 0.5 * h * k2);
      const Scalar k4 = loss(kelvin + h * k3);
      kelvin += h / 6 * (k1 + 2 * k2 + 2 * k3 + k4);
    }
    return kelvin - zero_celsius;
  }
};

}  // namespace

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: own_model TABLE.csv\n";
    return 2;
  }
  try {
    const tc::Observations readings(tc::read_csv(std::filesystem::path(arguments[1])),
                                    {.response = "T", .predictors = {"t"}, .response_uncertainty = "u(T)"});
    const tc::FunctionNames names{.response = "T", .predictors = {"t"}, .text = "T = cooling(t; T_0, tau, r)"};
    const tc::FitOptions options{.starts = {{"T_0", 1000}, {"tau", 50}, {"r", 0.1}}, .within = {{"r", 0}}};

    const auto exact = tc::Model::function({"T_0", "tau", "r"}, Cooling{}, names);
    const auto by_rule = tc::fit(exact, readings, options);

    // The same model as code that knows double only: its derivatives are differences.
    const auto plain = tc::Model::function(
        {"T_0", "tau", "r"}, [model = Cooling{}](double t, std::span<const double> p) { return model(t, p); }, names);
    const auto by_differences = tc::fit(plain, readings, options);

    std::cout << exact.text() << '\n';
    for (const char* name : {"T_0", "tau", "r"}) {
      fmt::print("{:<4} exact derivatives {:<14} differences {}\n", name,
                 tc::with_uncertainty(by_rule.parameter(name).value, by_rule.parameter(name).standard_uncertainty),
                 tc::with_uncertainty(by_differences.parameter(name).value,
                                      by_differences.parameter(name).standard_uncertainty));
    }
    fmt::print("chi-squared {:.4f} and {:.4f}\n", by_rule.chi_squared(), by_differences.chi_squared());
    for (const auto& sentence : tc::trust_of(by_rule, 0.95).sentences) fmt::print("{}\n", sentence);
    for (const auto& warning : by_rule.warnings()) fmt::print("{}\n", warning.text);
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
