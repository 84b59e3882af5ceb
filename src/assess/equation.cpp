// Writes the fitted curve out, and finds how many digits it takes.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/equation.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/model/headers.hpp>

#include "../base/halton.hpp"
#include "formula_names.hpp"
#include "written_curve.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <limits>
#include <map>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::WrittenBand;
using detail::WrittenCurve;
using detail::WrittenFormula;
using detail::WrittenName;
using detail::WrittenValue;

// The copied curve stays within this share of its standard uncertainty.
constexpr double allowed_share = 0.01;
// What both ways of computing a curve may round differently.
constexpr double rounding_share = 64 * std::numeric_limits<double>::epsilon();
constexpr int fewest_digits = 3;
constexpr int most_digits = 17;

// Places over the ranges of the predictors: of one evenly spaced, of several as Halton's sequence spreads them; both
// ends among them.
std::vector<std::vector<double>> places_over(const std::vector<Range>& ranges) {
  constexpr int count = 101;
  constexpr std::array<int, 8> primes = {2, 3, 5, 7, 11, 13, 17, 19};
  std::vector<std::vector<double>> places;
  for (int i = 0; i < count; ++i) {
    std::vector<double> place;
    for (std::size_t k = 0; k < ranges.size(); ++k) {
      const bool even = ranges.size() == 1 || i == 0 || i == count - 1;
      const double share =
          even ? static_cast<double>(i) / (count - 1) : detail::radical_inverse(i, primes[k % primes.size()]);
      place.push_back(ranges[k].low + share * (ranges[k].high - ranges[k].low));
    }
    places.push_back(std::move(place));
  }
  return places;
}

std::string with_digits(double value, int digits) {
  if (digits >= most_digits) return shortest(value);
  std::string text = rounded(value, digits);
  const std::size_t power = std::min(text.find('e'), text.size());
  const std::size_t point = text.find('.');
  if (point == std::string::npos) return text;
  const std::size_t last = text.find_last_not_of('0', power - 1);
  const std::size_t kept = last == point ? point : last + 1;
  return text.erase(kept, power - kept);
}

std::vector<Vector> point_of(const std::vector<double>& at) {
  std::vector<Vector> point;
  for (const double x : at) point.emplace_back(1, x);
  return point;
}

std::vector<double> full_numbers(const WrittenCurve& curve) {
  std::vector<double> values;
  for (const WrittenValue& number : curve.numbers()) values.push_back(number.value);
  return values;
}

double read_back(const std::string& text) {
  double value = not_a_number;
  std::from_chars(text.data(), text.data() + text.size(), value);
  return value;
}

// A formula, and how closely it is to be met at places.
struct Demand {
  WrittenFormula formula;
  std::vector<double> at;
  double value;
  double allowed;
};

// The formula of the curve within a hundredth of its standard uncertainty.
std::vector<Demand> demands_of_curve(const Estimate& estimate, const WrittenCurve& curve) {
  const std::vector<double> full = full_numbers(curve);
  const WrittenFormula formula = curve.curve();
  std::vector<Demand> demands;
  for (std::vector<double>& at : places_over(estimate.ranges())) {
    const double value = curve.value(formula, full, at);
    if (!std::isfinite(value)) continue;
    try {
      const double u = curve_at(estimate, point_of(at)).standard_uncertainty;
      demands.push_back({formula, std::move(at), value,
                         (std::isfinite(u) ? allowed_share * u : 0) + rounding_share * std::abs(value)});
    } catch (const Error&) {
      continue;  // a place within the range at which the curve is not defined
    }
  }
  return demands;
}

// Numbers as texts, with as few digits as the demands allow.
std::vector<std::string> written_numbers(const WrittenCurve& curve, const std::vector<Demand>& demands) {
  int digits = fewest_digits;
  for (; digits < most_digits; ++digits) {
    std::vector<double> rounded_values;
    for (const WrittenValue& number : curve.numbers())
      rounded_values.push_back(read_back(with_digits(number.value, digits)));
    const bool agrees = std::all_of(demands.begin(), demands.end(), [&](const Demand& demand) {
      return std::abs(curve.value(demand.formula, rounded_values, demand.at) - demand.value) <= demand.allowed;
    });
    if (agrees) break;
  }
  std::vector<std::string> texts;
  for (const WrittenValue& number : curve.numbers()) texts.push_back(with_digits(number.value, digits));
  return texts;
}

std::string in_comment(const std::string& text) {
  std::string line;
  for (const char c : text) line += c == '\n' || c == '\r' || c == '\\' ? ' ' : c;
  return line;
}

std::string quantity_text(const Quantity& quantity) {
  return quantity.name + (quantity.unit.empty() ? "" : fmt::format(" in {}", quantity.unit));
}

// How names are spelled: those of the predictors in the language or as cells, those of the numbers as texts.
class Spelling {
 public:
  Spelling(const Estimate& estimate, FormulaLanguage language, const std::vector<std::string>& cells)
      : estimate_(estimate), language_(language) {
    const std::vector<std::string>& predictors = estimate.model().predictors();
    if (language == FormulaLanguage::spreadsheet && !cells.empty() && cells.size() != predictors.size()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("{} cells are given for {} predictors", cells.size(), predictors.size()),
                   .subject = "cell",
                   .remedy = "give one cell for every predictor, in the order of the model"});
    }
    function_ = identifiers_.of(estimate.response().name);
    for (std::size_t k = 0; k < predictors.size(); ++k) names_[predictors[k]] = {spelled(k, cells)};
  }

  void set_numbers(const WrittenCurve& curve, const std::vector<std::string>& texts) {
    for (std::size_t j = 0; j < texts.size(); ++j)
      names_[curve.numbers()[j].name] = detail::written_number(texts[j], language_);
  }

  /// A formula as it stands in the language: with what it is called, as a function, or alone in a cell. What follows
  /// the name of the response, as "low", tells it from the curve.
  [[nodiscard]] std::string statement(const WrittenCurve& curve, const WrittenFormula& formula,
                                      const std::string& ending, const std::string& comment) {
    const detail::FormulaStyle style{.language = language_,
                                     .name_of = [&](const std::string& name) { return names_.at(name); }};
    const std::string right = curve.text(formula, style);
    const std::string& response = estimate_.model().response();
    const std::string suffix = ending.empty() ? "" : "_" + ending;
    switch (language_) {
      case FormulaLanguage::spreadsheet: return "=" + right;
      case FormulaLanguage::latex:
        if (ending == "u") return fmt::format("u\\left({}\\right) = {}", detail::latex_name(response), right);
        return fmt::format("{} = {}", detail::latex_name(response, ending), right);
      case FormulaLanguage::text: return fmt::format("{} = {}", name_in_formula(response + suffix), right);
      default: break;
    }
    const bool is_c = language_ == FormulaLanguage::c;
    const std::string name = ending.empty() ? function_ : identifiers_.of(function_ + suffix);
    return fmt::format("// {}\n{}{}double {}({}) {{ return {}; }}", comment,
                       ending.empty() ? fmt::format("#include <{}>\n", is_c ? "math.h" : "cmath") : "",
                       is_c ? "" : "inline ", name, arguments_.empty() && is_c ? "void" : arguments_, right);
  }

  /// The predictors with the ranges of the data: ", x from 1 to 9".
  [[nodiscard]] std::string ranges() const {
    std::string text;
    for (std::size_t k = 0; k < estimate_.predictors().size(); ++k) {
      const Range& range = estimate_.ranges()[k];
      text += fmt::format(", {} from {} to {}", in_comment(quantity_text(estimate_.predictors()[k])),
                          shortest(range.low), shortest(range.high));
    }
    return text;
  }

 private:
  [[nodiscard]] std::string spelled(std::size_t k, const std::vector<std::string>& cells) {
    const std::string& predictor = estimate_.model().predictors()[k];
    switch (language_) {
      case FormulaLanguage::latex: return detail::latex_name(predictor);
      case FormulaLanguage::text: return name_in_formula(predictor);
      case FormulaLanguage::spreadsheet: {
        std::string cell =
            cells.empty() ? fmt::format("{}2", static_cast<char>('A' + static_cast<int>(k % 26))) : cells[k];
        detail::require_cell(cell);
        return cell;
      }
      default: break;
    }
    std::string name = identifiers_.of(estimate_.predictors()[k].name);
    arguments_ += fmt::format("{}double {}", k == 0 ? "" : ", ", name);
    return name;
  }

  const Estimate& estimate_;
  FormulaLanguage language_;
  detail::Identifiers identifiers_;
  std::string function_;
  std::string arguments_;
  std::map<std::string, WrittenName> names_;
};

struct BandStatement {
  WrittenFormula formula;
  std::string ending;
  std::string comment;
  double (*of_band)(const BandPoint&);
};

// A pair of limits, the lower first at every place: as they are, exchanged (of 1/y the smaller value is the upper
// limit), or, where both occur, as of x/y on both sides of 0, by comparison.
std::pair<WrittenFormula, WrittenFormula> sorted(WrittenCurve& curve, std::pair<WrittenFormula, WrittenFormula> limits,
                                                 const std::vector<std::vector<double>>& places) {
  const std::vector<double> full = full_numbers(curve);
  bool rise = false;
  bool fall = false;
  for (const std::vector<double>& at : places) {
    const double step = curve.value(limits.second, full, at) - curve.value(limits.first, full, at);
    rise = rise || step > 0;
    fall = fall || step < 0;
  }
  if (rise && fall) return curve.in_order(limits);
  if (fall) std::swap(limits.first, limits.second);
  return limits;
}

std::vector<BandStatement> statements_of(WrittenCurve& curve, Level level, const std::string& response,
                                         const std::vector<std::vector<double>>& places) {
  const WrittenBand band = curve.band(level);
  const std::string at_level = fmt::format("{:.6g} % ", 100 * level.value());
  const auto [low, high] = sorted(curve, band.limits, places);
  std::vector<BandStatement> statements = {
      {band.standard_uncertainty, "u", "standard uncertainty of the curve of " + response,
       [](const BandPoint& point) { return point.standard_uncertainty; }},
      {low, "low", "lower limit of the " + at_level + "confidence band of the curve",
       [](const BandPoint& point) { return point.confidence.low; }},
      {high, "high", "upper limit of the " + at_level + "confidence band of the curve",
       [](const BandPoint& point) { return point.confidence.high; }}};
  if (!band.new_limits) return statements;
  const auto [new_low, new_high] = sorted(curve, *band.new_limits, places);
  statements.push_back({new_low, "new_low", "lower limit of the " + at_level + "band of new observations",
                        [](const BandPoint& point) { return point.prediction.low; }});
  statements.push_back({new_high, "new_high", "upper limit of the " + at_level + "band of new observations",
                        [](const BandPoint& point) { return point.prediction.high; }});
  return statements;
}

std::string place_text(const Estimate& estimate, const std::vector<double>& at) {
  std::string text;
  for (std::size_t k = 0; k < at.size(); ++k)
    text += fmt::format("{}{} = {}", k == 0 ? " at " : ", ", estimate.predictors()[k].name, shortest(at[k]));
  return text;
}

// Each formula within a hundredth of the half width that it describes; together with the band as it is computed
// elsewhere, which a formula may leave behind a pole.
std::vector<Demand> demands_of_band(const Estimate& estimate, const WrittenCurve& curve,
                                    const std::vector<BandStatement>& statements,
                                    const std::vector<std::vector<double>>& places, Level level) {
  const std::vector<double> full = full_numbers(curve);
  std::vector<Demand> demands;
  for (const std::vector<double>& at : places) {
    BandPoint point;
    try {
      point = band(estimate, point_of(at), level)[0];
    } catch (const Error&) {
      continue;  // a place within the range at which the curve is not defined
    }
    for (const BandStatement& statement : statements) {
      const double expected = statement.of_band(point);
      const double value = curve.value(statement.formula, full, at);
      const double width = statement.ending == "u" ? expected : std::abs(expected - point.value);
      const double allowed = allowed_share * width + rounding_share * std::abs(point.value);
      if (!(std::abs(value - expected) <= allowed)) {
        throw Error({.code = ErrorCode::not_supported,
                     .message = fmt::format("no formula is found for the {}:{} it would be {} in place of {}",
                                            statement.comment, place_text(estimate, at), rounded(value, 6),
                                            rounded(expected, 6)),
                     .subject = "band",
                     .remedy = "ask for the band at places"});
      }
      demands.push_back({statement.formula, at, value, allowed});
    }
  }
  return demands;
}

}  // namespace

std::string equation_with_numbers(const Estimate& estimate, FormulaLanguage language,
                                  const std::vector<std::string>& cells) {
  const WrittenCurve curve(estimate);
  Spelling spelling(estimate, language, cells);
  spelling.set_numbers(curve, written_numbers(curve, demands_of_curve(estimate, curve)));
  const std::string comment =
      in_comment(estimate.model().text()) + "; " + in_comment(quantity_text(estimate.response())) + spelling.ranges();
  return spelling.statement(curve, curve.curve(), "", comment);
}

std::vector<BandFormula> band_with_numbers(const Estimate& estimate, Level level, FormulaLanguage language,
                                           const std::vector<std::string>& cells) {
  WrittenCurve curve(estimate);
  Spelling spelling(estimate, language, cells);
  const std::vector<std::vector<double>> places = places_over(estimate.ranges());
  const std::vector<BandStatement> statements =
      statements_of(curve, level, in_comment(estimate.response().name), places);
  spelling.set_numbers(curve, written_numbers(curve, demands_of_band(estimate, curve, statements, places, level)));
  std::vector<BandFormula> formulas;
  for (const BandStatement& statement : statements) {
    formulas.push_back(
        {statement.ending, statement.comment,
         spelling.statement(curve, statement.formula, statement.ending, statement.comment + spelling.ranges())});
  }
  return formulas;
}

}  // namespace truecurve
