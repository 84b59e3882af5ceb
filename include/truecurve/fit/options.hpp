// What the user decides about a fit.
//
// Example:
//     const truecurve::FitOptions options{.uncertainty = truecurve::UncertaintyBasis::scatter};
//     EXPECT_EQ(options.uncertainty, truecurve::UncertaintyBasis::scatter);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/model/model.hpp>

#include <concepts>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

namespace truecurve {

/// Where the uncertainty of the parameters comes from.
enum class UncertaintyBasis {
  automatic,  ///< stated where standard uncertainties were given, else scatter
  stated,   ///< the given standard uncertainties are believed as they stand: covariance (JᵀWJ)⁻¹, normal quantiles
  scatter,  ///< the scatter about the curve sets the scale: covariance times chi-squared/dof, Student-t quantiles
};

[[nodiscard]] constexpr std::string_view name(UncertaintyBasis basis) {
  return basis == UncertaintyBasis::stated ? "stated" : basis == UncertaintyBasis::scatter ? "scatter" : "automatic";
}

/// How the scatter of the measured response grows with it, where no uncertainties are stated: its standard deviation is
/// proportional to |response|^power, or to |response + taken off|^power where it is that of a gross reading from which
/// something was taken off, as a blank. None of these throws an Error of its own.
class Spread {
 public:
  /// Nothing is said: a model is fitted with equal scatter of its left side as written.
  Spread() = default;
  [[nodiscard]] static Spread constant() { return Spread(0); }
  [[nodiscard]] static Spread proportional() { return Spread(1); }
  [[nodiscard]] static Spread counts() { return Spread(0.5); }
  [[nodiscard]] static Spread of_power(double power, double taken_off = 0) { return Spread(power, taken_off); }

  [[nodiscard]] bool is_given() const noexcept { return power_.has_value(); }
  [[nodiscard]] double power() const { return power_.value_or(0); }
  [[nodiscard]] double taken_off() const noexcept { return taken_off_; }
  [[nodiscard]] bool operator==(const Spread&) const = default;

 private:
  explicit Spread(double power, double taken_off = 0) : power_(power), taken_off_(taken_off) {}
  std::optional<double> power_;
  double taken_off_ = 0;
};

/// A value at which the search for a parameter begins.
struct Start {
  std::string parameter{};
  double value = 0;
};

/// Limits of a parameter; infinite where there is none.
struct Within {
  std::string parameter{};
  double low = -infinity;
  double high = infinity;
};

/// What a search is doing.
enum class FitStage {
  looking,     ///< for starts, at points drawn over the range of the data
  beginning,   ///< short descents from the best of them
  descending,  ///< to the minima
  checking,    ///< whether the minimum is what it seems: other orders of like terms, parameters without a bound
};
/// "looking for starts", "beginning descents", "descending", "checking the minimum".
[[nodiscard]] std::string_view name(FitStage stage) noexcept;

/// How far a search has come.
struct FitProgress {
  FitStage stage = FitStage::looking;
  int evaluations = 0;          ///< of the model over its rows, so far
  double share = not_a_number;  ///< of the stage, from 0 to 1; NaN where it can't be known
};

/// What is called with the progress of a search, from the thread that called fit() and at most every 20 ms but for the
/// beginnings of stages. What it throws passes through fit() unchanged.
class ProgressCall {
 public:
  ProgressCall() = default;
  template <typename Callable>
  requires(!std::same_as<std::remove_cvref_t<Callable>, ProgressCall> &&
           std::invocable<const std::remove_cvref_t<Callable>&, const FitProgress&>)
      ProgressCall(Callable&& call)  // NOLINT: a function is one
      : call_(std::make_shared<Kept<std::remove_cvref_t<Callable>>>(std::forward<Callable>(call))) {}

  /// Passes on what the callable throws.
  void operator()(const FitProgress& progress) const { call_->call(progress); }
  [[nodiscard]] explicit operator bool() const noexcept { return call_ != nullptr; }

 private:
  struct Any {
    Any() = default;
    Any(const Any&) = delete;
    Any& operator=(const Any&) = delete;
    virtual ~Any() = default;
    virtual void call(const FitProgress& progress) const = 0;
  };
  template <typename Callable>
  struct Kept final : Any {
    explicit Kept(Callable kept) : callable(std::move(kept)) {}
    void call(const FitProgress& progress) const override { callable(progress); }
    Callable callable;
  };
  std::shared_ptr<const Any> call_{};
};

/// Options of fit().
struct FitOptions {
  UncertaintyBasis uncertainty = UncertaintyBasis::automatic;
  Spread spread{};
  /// Of a model that is not linear: where the search begins. Parameters without a start are searched for; starts of
  /// parameters that enter linearly are not needed, as these are solved for.
  std::vector<Start> starts{};
  /// Parameters that are held at a value and not fitted.
  std::vector<FixedParameter> fixed{};
  /// Limits within which parameters must lie. A parameter that ends at one is said to be there, and has no uncertainty.
  std::vector<Within> within{};
  /// Of the model over its rows (over 300 of them while starts are looked for), in the whole search.
  int most_evaluations = 1'000'000;
  /// A response of zeros and ones alone is an event and refused; this takes it as numbers that were measured.
  bool events_as_numbers = false;
  /// A search ends where this is requested, from whatever thread, with its best so far, `StopReason::stopped` and
  /// `converged` false: within the time of some evaluations of the model over its rows.
  std::stop_token stop{};
  double time_limit = infinity;  ///< s; a search ends then as above, with `StopReason::time_limit`
  ProgressCall progress{};
};

}  // namespace truecurve
