// The text reports.
#include "grid.hpp"

#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/data/summary.hpp>
#include <truecurve/report/text.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::Align;
using detail::csv_field;
using detail::Grid;
using detail::wrapped;

constexpr std::size_t page_width = 96;
constexpr std::size_t rows_shown = 4;
// A list of rows longer than this is cut, with a count of the rest.
constexpr std::size_t rows_listed = 12;

std::string paragraph(const std::string& text) { return wrapped(text, page_width, "  ", "  "); }
std::string item(const std::string& text) { return wrapped(text, page_width, "    ", "  - "); }
std::string plural(std::size_t count, const char* noun) { return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s"); }

std::string with_unit(const std::string& number, const std::string& unit) { return unit.empty() ? number : number + " " + unit; }

std::string level_text(double level) { return fmt::format("{:.6g} %", 100 * level); }

std::string uncertainty_sentence(const Fit& fit, double level) {
  const Observations& observations = fit.observations();
  const bool stated = fit.estimate().basis() == UncertaintyBasis::stated;
  const double factor = fit.estimate().coverage_factor(level);
  if (stated) {
    return fmt::format("The uncertainties are standard uncertainties that follow from the stated uncertainties of {} ({}), taken as they "
                       "stand; the intervals use the normal distribution (k = {:.3f}).",
                       observations.response().name, observations.uncertainty_origin(), factor);
  }
  const std::string distribution =
      std::isfinite(factor) ? fmt::format("the intervals use Student's t with {} degrees of freedom (k = {:.3f})", fit.degrees_of_freedom(), factor)
                            : "without degrees of freedom they can't be given";
  if (observations.has_uncertainties()) {
    return fmt::format("The uncertainties are standard uncertainties: the given uncertainties ({}) only weigh the rows against each other, and the "
                       "scatter about the curve sets the scale; {}.",
                       observations.uncertainty_origin(), distribution);
  }
  return fmt::format("The uncertainties are standard uncertainties estimated from the scatter of the rows about the curve, taken as equal for "
                     "all rows; {}.", distribution);
}

std::string chi_squared_sentence(const Quality& q) {
  if (std::isnan(q.chi_squared_p)) return "";
  const std::string verdict = q.chi_squared_p < 0.01   ? "The rows scatter more than their stated uncertainties allow: these are too small, or the curve is wrong."
                              : q.chi_squared_p > 0.99 ? "The rows scatter less than their stated uncertainties say: these may be too large."
                                                       : "That agrees with the stated uncertainties.";
  return fmt::format("Chi-squared is {} with {} degrees of freedom; a larger one is expected with probability {}. {}", rounded(q.chi_squared, 4),
                     q.degrees_of_freedom, probability_text(q.chi_squared_p), verdict);
}

std::string left_out_text(const Observations& observations) {
  std::string text;
  std::vector<std::pair<std::string, std::vector<std::size_t>>> by_reason;
  for (const LeftOut& left : observations.left_out()) {
    const auto at = std::find_if(by_reason.begin(), by_reason.end(), [&](const auto& entry) { return entry.first == left.reason; });
    if (at == by_reason.end()) {
      by_reason.push_back({left.reason, {left.row}});
    } else {
      at->second.push_back(left.row);
    }
  }
  for (const auto& [reason, rows] : by_reason) {
    std::string numbers;
    for (std::size_t i = 0; i < std::min(rows.size(), rows_listed); ++i) numbers += fmt::format("{}{}", i == 0 ? "" : ", ", rows[i]);
    if (rows.size() > rows_listed) numbers += fmt::format(" and {} more", rows.size() - rows_listed);
    text += item(fmt::format("Left out: row{} {}: {}.", rows.size() == 1 ? "" : "s", numbers, reason));
  }
  return text;
}

std::string headline(const Fit& fit) {
  std::string text = fit.model().text();
  if (fit.model().kind() != "written") text += fmt::format("   ({})", fit.model().kind());
  const Observations& observations = fit.observations();
  const std::string from = observations.source().name.empty() ? "" : fmt::format(" of {}", observations.source().name);
  const bool all = observations.size() == observations.rows_read();
  return fmt::format("{}\nfitted to {}{}\n\n", text,
                     all ? fmt::format("all {}", plural(observations.size(), "row"))
                         : fmt::format("{} of {}", observations.size(), plural(observations.rows_read(), "row")),
                     from);
}

std::string answer(const Fit& fit, const std::vector<ParameterInterval>& parameters) {
  std::string text;
  for (std::size_t j = 0; j < parameters.size(); ++j) {
    const ParameterInterval& p = parameters[j];
    std::string role;
    if (fit.model().is_straight_line()) role = fit.model().constant_index() == static_cast<int>(j) ? "The intercept " : "The slope ";
    if (j > 0) text += j + 1 == parameters.size() ? " and " : ", ";
    if (j > 0 && !role.empty()) role[0] = 't';
    text += role + p.name + " is " + with_unit(with_uncertainty(p.value, p.standard_uncertainty), p.unit);
  }
  return text + ".";
}

std::string quality_grid(const Fit& fit, const Quality& q) {
  Grid grid({{"", Align::left}, {"", Align::left}, {"", Align::left}});
  const auto row = [&grid](const char* what, double value, int digits, const std::string& unit, const std::string& remark) {
    grid.add({what, std::isnan(value) ? "-" : with_unit(rounded(value, digits), unit), remark});
  };
  const Observations& observations = fit.observations();
  grid.add({"rows n", fmt::format("{}", fit.size()), fmt::format("{} parameters, {} degrees of freedom", fit.estimate().parameters().size(), q.degrees_of_freedom)});
  row("residual standard deviation S", q.residual_sd, 4, observations.response().unit, observations.has_uncertainties() ? "unweighted" : "");
  if (observations.has_uncertainties()) {
    row("chi-squared", q.chi_squared, 4, "", std::isnan(q.chi_squared_p) ? "" : "p = " + probability_text(q.chi_squared_p));
    row("chi-squared / degrees of freedom", q.reduced_chi_squared, 4, "", std::isnan(q.birge_ratio) ? "" : "Birge ratio " + rounded(q.birge_ratio, 4));
  }
  row("R²", q.r_squared, 6, "", fit.model().has_constant() ? "about the mean" : "about zero: the model has no constant term");
  row("adjusted R²", q.adjusted_r_squared, 6, "", "");
  if (fit.model().is_straight_line()) row("correlation coefficient r", q.correlation, 6, "", "");
  row("ln likelihood", q.log_likelihood, 6, "", "");
  row("AIC, AICc", q.aic, 6, "", std::isnan(q.aicc) ? "AICc needs more rows" : rounded(q.aicc, 6));
  row("BIC", q.bic, 6, "", "");
  return grid.text();
}

std::string correlation_text(const Fit& fit) {
  const MatrixXd r = correlation(fit.estimate());
  const auto& names = fit.estimate().parameter_names();
  if (names.size() < 2 || !r.allFinite()) return "";
  if (names.size() == 2) return paragraph(fmt::format("The correlation between {} and {} is {:.3f}.", names[0], names[1], r(0, 1)));
  std::vector<Grid::Heading> headings = {{"correlation", Align::left}};
  for (const std::string& name : names) headings.push_back({name, Align::right});
  Grid grid(headings);
  for (Eigen::Index i = 0; i < r.rows(); ++i) {
    std::vector<std::string> cells = {names[static_cast<std::size_t>(i)]};
    for (Eigen::Index j = 0; j < r.cols(); ++j) cells.push_back(j > i ? "" : fmt::format("{:.3f}", r(i, j)));
    grid.add(std::move(cells));
  }
  return grid.text();
}

std::string cell_text(const Column& column, std::size_t row) {
  if (const std::string* text = column.text_at(row)) return *text;
  return std::isnan(column.numbers[row]) ? "(missing)" : shortest(column.numbers[row]);
}

// A list of rows, cut where it grows long.
std::string row_list(const std::vector<std::size_t>& rows) {
  std::string text;
  for (std::size_t i = 0; i < std::min(rows.size(), rows_listed); ++i) text += fmt::format("{}{}", i == 0 ? "" : ", ", rows[i]);
  if (rows.size() > rows_listed) text += fmt::format(" and {} more", rows.size() - rows_listed);
  return text;
}

}  // namespace

std::string fit_text(const Fit& fit, double level) {
  const std::vector<ParameterInterval> parameters = parameter_intervals(fit.estimate(), level);
  const Quality q = quality_of(fit);
  std::string text = headline(fit);
  text += paragraph(answer(fit, parameters));
  text += paragraph(uncertainty_sentence(fit, level));
  if (const std::string chi = chi_squared_sentence(q); !chi.empty()) text += paragraph(chi);

  text += "\nParameters\n";
  Grid grid({{"name", Align::left},
             {"value", Align::point},
             {"standard uncertainty", Align::point},
             {level_text(level) + " interval", Align::left},
             {"t", Align::point},
             {"p (is it zero?)", Align::left},
             {"unit", Align::left}});
  for (const ParameterInterval& p : parameters) {
    const bool known = std::isfinite(p.standard_uncertainty);
    grid.add({p.name, with_uncertainty(p.value, p.standard_uncertainty), known ? rounded(p.standard_uncertainty, 2) : "-",
              known ? interval_text(p.low, p.high, p.standard_uncertainty) : "-", std::isnan(p.t) ? "-" : rounded(p.t, 4),
              std::isnan(p.p) ? "-" : probability_text(p.p), p.unit});
  }
  text += grid.text();
  text += correlation_text(fit);
  text += "\nHow well the curve describes the rows\n" + quality_grid(fit, q);

  std::string careful;
  for (const Warning& warning : fit.warnings()) careful += item(warning.text);
  for (const std::string& remark : fit.observations().remarks()) careful += item(remark);
  careful += left_out_text(fit.observations());
  const bool stated = fit.estimate().basis() == UncertaintyBasis::stated;
  if (stated && q.chi_squared_p < 0.01) {
    careful += item(fmt::format("If the stated uncertainties are only relative, --uncertainty scatter lets the scatter set the scale: every standard uncertainty "
                                "then grows by the Birge ratio {}.", rounded(q.birge_ratio, 3)));
  }
  if (q.degrees_of_freedom > 0 && q.degrees_of_freedom < 3) {
    careful += item(fmt::format("With {} the scatter itself is poorly known.", plural(static_cast<std::size_t>(q.degrees_of_freedom), "degree") + " of freedom"));
  }
  if (!careful.empty()) text += "\nTo be careful about\n" + careful;
  return text;
}

std::string look_text(const Table& table) {
  std::string text = fmt::format("{}\n{} of {}\n\n", table.source().name.empty() ? "table" : table.source().name, plural(table.rows(), "row"),
                                 plural(table.columns().size(), "column"));
  if (!table.source().remark.empty()) text += paragraph(fmt::format("Read as {}.", table.source().remark)) + "\n";

  text += "Rows\n";
  std::vector<Grid::Heading> headings = {{"row", Align::right}};
  for (const Column& column : table.columns()) {
    headings.push_back({column.unit.empty() ? column.name : fmt::format("{} ({})", column.name, column.unit), column.is_text() ? Align::left : Align::point});
  }
  Grid rows(headings);
  const bool cut = table.rows() > 2 * rows_shown + 1;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    if (cut && i == rows_shown) {
      rows.add(std::vector<std::string>(headings.size(), "..."));
      i = table.rows() - rows_shown;
    }
    std::vector<std::string> cells = {fmt::format("{}", i + 1)};
    for (const Column& column : table.columns()) cells.push_back(cell_text(column, i));
    rows.add(std::move(cells));
  }
  text += rows.text();

  Grid grid({{"column", Align::left}, {"n", Align::right}, {"mean", Align::point}, {"SD", Align::point}, {"min", Align::point}, {"lower quartile", Align::point},
             {"median", Align::point}, {"upper quartile", Align::point}, {"max", Align::point}});
  std::string remarks;
  bool any = false;
  for (const Column& column : table.columns()) {
    const ColumnSummary s = summary_of(column);
    if (column.is_text()) {
      remarks += item(fmt::format("'{}' holds words.", column.name));
    } else {
      any = true;
      const auto number = [](double x) { return std::isnan(x) ? std::string("-") : fmt::format("{:.5g}", x); };
      grid.add({column.name, fmt::format("{}", s.count), number(s.mean), number(s.sd), number(s.minimum), number(s.lower_quartile), number(s.median),
                number(s.upper_quartile), number(s.maximum)});
      if (s.texts > 0) {
        std::vector<std::size_t> at;
        for (const TextCell& cell : column.texts) at.push_back(cell.row + 1);
        remarks += item(fmt::format("'{}' holds text among its numbers in row{} {} ('{}'): a fit will ask what to do with {}.", column.name,
                                    at.size() == 1 ? "" : "s", row_list(at), column.texts.front().text, at.size() == 1 ? "it" : "them"));
      }
      if (!s.beyond_fences.empty()) {
        remarks += item(fmt::format("'{}' lies far from its other values in row{} {} (beyond the box-plot fences).", column.name,
                                    s.beyond_fences.size() == 1 ? "" : "s", row_list(s.beyond_fences)));
      }
      if (s.count > 1 && s.sd == 0) remarks += item(fmt::format("'{}' is the same in every row.", column.name));
    }
    if (s.missing > 0) {
      std::vector<std::size_t> at;
      for (std::size_t i = 0; i < table.rows(); ++i) {
        if (column.is_missing(i)) at.push_back(i + 1);
      }
      remarks += item(fmt::format("'{}' is missing in row{} {}.", column.name, at.size() == 1 ? "" : "s", row_list(at)));
    }
  }
  if (any) text += "\nSummary\n" + grid.text();
  if (!remarks.empty()) text += "\nTo be careful about\n" + remarks;
  return text;
}

std::string fit_csv(const Fit& fit, double level) {
  std::string text = "name,value,standard_uncertainty,level,low,high,t,p,unit\n";
  const auto number = [](double x) { return std::isfinite(x) ? shortest(x) : std::string(); };
  for (const ParameterInterval& p : parameter_intervals(fit.estimate(), level)) {
    text += fmt::format("{},{},{},{},{},{},{},{},{}\n", csv_field(p.name), number(p.value), number(p.standard_uncertainty), number(level), number(p.low),
                        number(p.high), number(p.t), number(p.p), csv_field(p.unit));
  }
  return text;
}

std::string look_csv(const Table& table) {
  std::string text = "column,unit,n,missing,texts,mean,sd,minimum,lower_quartile,median,upper_quartile,maximum,beyond_fences\n";
  const auto number = [](double x) { return std::isfinite(x) ? shortest(x) : std::string(); };
  for (const Column& column : table.columns()) {
    const ColumnSummary s = summary_of(column);
    text += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csv_field(column.name), csv_field(column.unit), s.count, s.missing, s.texts, number(s.mean), number(s.sd),
                        number(s.minimum), number(s.lower_quartile), number(s.median), number(s.upper_quartile), number(s.maximum), s.beyond_fences.size());
  }
  return text;
}

}  // namespace truecurve
