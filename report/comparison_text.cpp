// The page of a comparison.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/comparison_text.hpp>

#include "page.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace truecurve {
namespace {

using detail::Align;
using detail::by_reason;
using detail::csv_field;
using detail::csv_number;
using detail::Grid;
using detail::item;
using detail::level_text;
using detail::narrow_gap;
using detail::number_or_dash;
using detail::p_text;
using detail::page_width;
using detail::paragraph;
using detail::plural;
using detail::row_list;
using detail::rows_listed;
using detail::with_unit;
using detail::wrapped;

// Two tables of the candidates must fit a line of 100 characters; longer names are cut there and whole below.
constexpr std::size_t name_width = 20;
// Of a long list of candidates only the best are described in full; the record has all.
constexpr std::size_t candidates_described = 10;

std::string cut(const std::string& name) {
  if (detail::shown_width(name) <= name_width) return name;
  std::string text;
  for (const char c : name) {
    const bool begins = (static_cast<unsigned char>(c) & 0xC0) != 0x80;
    if (begins && detail::shown_width(text) == name_width - 1) break;
    text += c;
  }
  return text + "…";
}

std::string number(std::size_t place) { return fmt::format("{}", place + 1); }

std::string fixed(double value, int decimals) {
  return std::isnan(value) ? "-" : fmt::format("{:.{}f}", value, decimals);
}

std::string error_text(const ErrorSize& size, bool relative) {
  return number_or_dash(relative ? size.in_uncertainties : size.root_mean_square, 4);
}

// Of a counted response the mean deviance.
std::string of_left_out(const Candidate& c, const ErrorSize& size, bool relative) {
  return c.fit.is_counted() ? number_or_dash(std::pow(size.root_mean_square, 2), 4) : error_text(size, relative);
}

// Whether every candidate knows uncertainties of the rows; only then can all be measured in them.
bool has_uncertainties(const Comparison& comparison) {
  return std::all_of(comparison.candidates.begin(), comparison.candidates.end(),
                     [](const Candidate& c) { return c.fit.observations().has_uncertainties(); });
}

std::string headline(const Comparison& comparison) {
  const Fit& fit = comparison.candidates.front().fit;
  const Observations& rows = fit.observations();
  const std::string from = rows.source().name.empty() ? "" : " of " + rows.source().name;
  return fmt::format("{}\n{} compared by their fits to {}{}\n\n", rows.response().name,
                     plural(comparison.candidates.size(), "candidate"),
                     rows.size() == rows.rows_read()
                         ? fmt::format("all {}", plural(rows.size(), "row"))
                         : fmt::format("{} of {}", rows.size(), plural(rows.rows_read(), "row")),
                     from);
}

bool is_counted(const Comparison& comparison) { return comparison.candidates.front().fit.is_counted(); }

std::string uncertainty_sentence(const Comparison& comparison) {
  if (is_counted(comparison)) {
    const Observations& rows = comparison.candidates.front().fit.observations();
    const bool events = rows.observation_model().kind() == ResponseKind::events;
    return fmt::format("Every candidate is fitted by maximum likelihood, the {} of '{}' having {} distribution.",
                       events ? "events" : "counts", rows.response().name, events ? "a binomial" : "a Poisson");
  }
  std::set<std::string> origins;
  std::set<UncertaintyBasis> bases;
  std::set<std::string> scatters;
  for (const Candidate& c : comparison.candidates) {
    origins.insert(c.fit.observations().uncertainty_origin());
    bases.insert(c.fit.estimate().basis());
    scatters.insert(assumed_scatter(c.fit));
  }
  if (origins.size() > 1 || bases.size() > 1)
    return "The candidates use different uncertainties of the data; see below.";
  if (*bases.begin() == UncertaintyBasis::stated)
    return fmt::format("The stated uncertainties ({}) are used as stated by every candidate.", *origins.begin());
  if (!origins.begin()->empty()) {
    return fmt::format(
        "The given uncertainties ({}) are used as relative weights; the scale is estimated from the residuals of each "
        "candidate.",
        *origins.begin());
  }
  return scatters.size() == 1
             ? fmt::format("The scatter is estimated from the residuals of each candidate and assumed to be {}.",
                           *scatters.begin())
             : "The scatter is estimated from the residuals of each candidate; the assumed scatter differs between "
               "candidates; see below.";
}

std::string criteria_grid(const Comparison& comparison) {
  const bool folds = comparison.folds != 0;
  const bool relative = has_uncertainties(comparison);
  std::vector<Grid::Heading> headings = {
      {"#", Align::right},     {"candidate", Align::left},      {"parameters", Align::right}, {"AICc", Align::point},
      {"ΔAICc", Align::point}, {"Akaike weight", Align::point}, {"BIC", Align::point}};
  headings.push_back({is_counted(comparison) ? "leave-one-out deviance" : "leave-one-out RMSE", Align::point});
  if (folds) headings.push_back({fmt::format("{}-fold", comparison.folds), Align::point});
  Grid grid(headings, narrow_gap);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    std::vector<std::string> cells = {number(i),
                                      cut(c.name),
                                      fmt::format("{}", c.parameters),
                                      fixed(c.aicc, 1),
                                      fixed(c.delta_aicc, 1),
                                      fixed(c.weight, 3),
                                      fixed(c.bic, 1),
                                      of_left_out(c, c.leave_one_out.size, relative)};
    if (folds) cells.push_back(of_left_out(c, c.cross_validation, relative));
    grid.add(std::move(cells));
  }
  return grid.text();
}

std::string largest_residual_text(const Candidate& c) {
  return std::isnan(c.largest_residual) ? "-"
                                        : fmt::format("{:.2f}, row {}", c.largest_residual, c.largest_residual_row);
}

std::string counted_grid(const Comparison& comparison) {
  Grid grid({{"#", Align::right},
             {"candidate", Align::left},
             {"deviance", Align::point},
             {"degrees of freedom", Align::right},
             {"largest residual", Align::point},
             {"p (extra term)", Align::left}},
            narrow_gap);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    grid.add({number(i), cut(c.name), number_or_dash(c.deviance, 4), fmt::format("{}", c.fit.degrees_of_freedom()),
              largest_residual_text(c), p_text(c.added_p)});
  }
  return grid.text();
}

std::string description_grid(const Comparison& comparison) {
  if (is_counted(comparison)) return counted_grid(comparison);
  const Observations& rows = comparison.candidates.front().fit.observations();
  const bool stated = has_uncertainties(comparison);
  const std::string& unit = rows.response().unit;
  Grid grid({{"#", Align::right},
             {"candidate", Align::left},
             {stated         ? "chi²/dof"
              : unit.empty() ? "S"
                             : fmt::format("S ({})", unit),
              Align::point},
             {"R²", Align::point},
             {"adjusted R²", Align::point},
             {"largest residual", Align::point},
             {"p (extra term)", Align::left}},
            narrow_gap);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    grid.add({number(i), cut(c.name), number_or_dash(stated ? c.reduced_chi_squared : c.residual_sd, 4),
              number_or_dash(c.r_squared, 6), number_or_dash(c.adjusted_r_squared, 6), largest_residual_text(c),
              p_text(c.added_p)});
  }
  return grid.text();
}

std::string legend(const Comparison& comparison) {
  const Observations& rows = comparison.candidates.front().fit.observations();
  const std::string& y = rows.response().name;
  const std::string folds =
      comparison.folds == 0 ? ""
                            : fmt::format("; {}-fold: of predicting groups of rows (seed {}), replicates kept together",
                                          comparison.folds, comparison.seed);
  std::string text = fmt::format(
      "AICc, BIC and Akaike weight are computed from the likelihood of the measured {}; {}; R² is about the mean. "
      "Leave-one-out RMSE: root mean square error of predicting each row from the others{}{}. Largest residual: in "
      "standard deviations of that residual.",
      y, has_uncertainties(comparison) ? "chi²/dof uses its uncertainties" : "S is unweighted",
      has_uncertainties(comparison)  ? ", in standard uncertainties of the rows"
      : rows.response().unit.empty() ? ""
                                     : fmt::format(", in {}", rows.response().unit),
      folds);
  if (is_counted(comparison)) {
    text = fmt::format(
        "AICc, BIC and Akaike weight are computed from the likelihood of the counted numbers. Leave-one-out deviance: "
        "mean deviance of each row from the curve fitted to the others, the logarithmic score but for a constant{}. "
        "Largest residual: Pearson's, in standard deviations of that residual.",
        folds);
  }
  std::size_t refitted = 0;
  std::string one_step;
  for (const Candidate& c : comparison.candidates) {
    refitted += c.leave_one_out.method == LeaveOneOut::Method::refitted;
    if (c.leave_one_out.method == LeaveOneOut::Method::one_step)
      one_step +=
          fmt::format(" That of {} is approximated by one step (differs by {:.1g} % from refits without some rows).",
                      c.name, 100 * std::abs(c.leave_one_out.one_step_difference));
  }
  if (refitted > 0) text += " Nonlinear candidates were refitted without each row.";
  return text + one_step;
}

std::string nested_text(const Comparison& comparison) {
  if (comparison.nested.empty()) return "";
  Grid grid({{"smaller", Align::left},
             {"larger", Align::left},
             {"test", Align::left},
             {"statistic", Align::point},
             {"degrees of freedom", Align::left},
             {"p", Align::left}},
            narrow_gap);
  for (const NestedPair& pair : comparison.nested) {
    grid.add({cut(comparison.candidates[pair.smaller].name), cut(comparison.candidates[pair.larger].name),
              std::string(name(pair.test.kind)), number_or_dash(pair.test.statistic, 4),
              std::isnan(pair.test.denominator) ? shortest(pair.test.added)
                                                : fmt::format("{}, {}", pair.test.added, pair.test.denominator),
              p_text(pair.test.p)});
  }
  return "\nNested candidates\n" + grid.text();
}

std::string hold_out_text(const Comparison& comparison) {
  if (comparison.held_out.empty()) return "";
  const Observations& observations = comparison.candidates.front().fit.observations();
  const std::string& unit = observations.response().unit;
  std::string text = fmt::format("\nHold-out data: {} with {}\n",
                                 plural(comparison.held_out.front().rows.size(), "row"), comparison.hold_out);
  Grid grid({{"#", Align::right},
             {"candidate", Align::left},
             {"row", Align::right},
             {unit.empty() ? "measured" : fmt::format("measured ({})", unit), Align::point},
             {"predicted", Align::point},
             {"error", Align::point},
             {"error / u", Align::point}},
            narrow_gap);
  for (std::size_t i = 0; i < comparison.held_out.size(); ++i) {
    const HeldOutRows& held = comparison.held_out[i];
    double squares = 0;
    double relative = 0;
    std::size_t count = 0;
    for (const HeldOutRow& row : held.rows) {
      if (count < rows_listed) {
        const bool first = count == 0;
        grid.add({first ? number(i) : "", first ? cut(held.name) : "", fmt::format("{}", row.row),
                  shortest(row.measured),
                  std::isnan(row.predicted) ? "-" : with_uncertainty(row.predicted, row.standard_uncertainty),
                  number_or_dash(row.error, 3), fixed(row.in_uncertainties, 2)});
      }
      squares += row.error * row.error;
      relative += row.in_uncertainties * row.in_uncertainties;
      ++count;
    }
    if (count > 1) {
      const auto n = static_cast<double>(count);
      grid.add({"", "  root mean square", "", "", "", number_or_dash(std::sqrt(squares / n), 3),
                fixed(std::sqrt(relative / n), 2)});
    }
  }
  return text + grid.text();
}

std::string routes_text(const Comparison& comparison) {
  std::string text;
  for (const ExplainedRoutes& routes : comparison.routes) {
    const Candidate& direct = comparison.candidates[routes.direct];
    const Candidate& straight = comparison.candidates[routes.linearized];
    text += fmt::format("\nOne curve by two routes: {} and {}\n", direct.name, straight.name);
    Grid grid({{"parameter", Align::left},
               {"direct", Align::point},
               {"linearized", Align::point},
               {"difference / u(direct)", Align::point}});
    for (const RouteParameter& p : routes.pair.parameters) {
      grid.add({p.name, with_uncertainty(p.direct, p.direct_uncertainty),
                with_uncertainty(p.linearized, p.linearized_uncertainty),
                fixed((p.linearized - p.direct) / p.direct_uncertainty, 2)});
    }
    text += grid.text();
    const std::string& y = direct.fit.observations().response().name;
    text += paragraph(
        fmt::format("The direct route assumes a scatter of {} that is {} ({}), the linearized route by {} one that is "
                    "{} ({}). {}",
                    y, routes.pair.direct_scatter, routes.pair.direct_weights, straight.fit.model().left_side(),
                    routes.pair.linearized_scatter, routes.pair.linearized_weights, routes.pair.verdict));
  }
  return text;
}

std::string careful_text(const Comparison& comparison) {
  std::string text;
  for (const std::string& remark : comparison.remarks) text += item(remark);
  for (const auto& [reason, rows] : by_reason(comparison.not_common)) {
    const std::string list = row_list(rows);
    text += item(fmt::format("Row{} fitted by no candidate, so that all are judged on the same rows: {}.",
                             rows.size() == 1 ? " " + list + " was" : "s " + list + " were", reason));
  }
  const std::size_t described = std::min(candidates_described, comparison.candidates.size());
  for (std::size_t i = 0; i < described; ++i) {
    const Candidate& c = comparison.candidates[i];
    if (c.remarks.empty()) continue;
    std::string list;
    for (const CandidateRemark& remark : c.remarks) list += (list.empty() ? "" : "; ") + remark.text;
    text += item(fmt::format("{} {}: {}.", i + 1, c.name, list));
  }
  if (described < comparison.candidates.size()) {
    text += item(
        fmt::format("Remarks on the other {} candidates are in the record.", comparison.candidates.size() - described));
  }
  for (const FailedCandidate& failed : comparison.failed)
    text += item(fmt::format("Not fitted: {}: {}.", failed.name, failed.reason));
  return text.empty() ? "" : "\nCautions\n" + text;
}

std::string curves_text(const Comparison& comparison) {
  std::set<std::string> scatters;
  for (const Candidate& c : comparison.candidates) scatters.insert(assumed_scatter(c.fit));
  std::string text = "\nThe curves\n";
  for (std::size_t i = 0; i < std::min(candidates_described, comparison.candidates.size()); ++i) {
    const Candidate& c = comparison.candidates[i];
    const std::string head = fmt::format("  {:>2}  ", i + 1);
    const std::string indent(head.size(), ' ');
    const std::string formula = c.name == c.fit.model().text() ? c.name : c.name + ": " + c.fit.model().text();
    const std::string scatter = scatters.size() > 1 ? "; scatter " + assumed_scatter(c.fit) : "";
    text += wrapped(formula + scatter, page_width(), indent, head);
    std::string values;
    for (const ParameterInterval& p : parameter_intervals(c.fit.estimate(), 0.95)) {
      values += (values.empty() ? "" : ", ") + p.name + " = " +
                with_unit(with_uncertainty(p.value, p.standard_uncertainty), p.unit);
    }
    text += wrapped(values, page_width(), indent, indent);
  }
  return text;
}

}  // namespace

std::string comparison_text(const Comparison& comparison) {
  const std::string by = comparison.ordered_by == "AICc" ? "AICc" : "leave-one-out error";
  return headline(comparison) + paragraph(comparison.suggestion.reason) + paragraph(uncertainty_sentence(comparison)) +
         fmt::format("\nThe candidates, best first by {}\n", by) + criteria_grid(comparison) + "\nGoodness of fit\n" +
         description_grid(comparison) + "\n" + paragraph(legend(comparison)) + nested_text(comparison) +
         hold_out_text(comparison) + routes_text(comparison) + careful_text(comparison) + curves_text(comparison);
}

std::string comparison_csv(const Comparison& comparison) {
  std::string text =
      "name,parameters,aicc,delta_aicc,weight,bic,leave_one_out_sd,leave_one_out_in_uncertainties,cross_validation_sd,"
      "residual_sd,reduced_chi_squared,r_squared,adjusted_r_squared,largest_residual,largest_residual_row,added_term_p,"
      "added_to,remarks\n";
  for (const Candidate& c : comparison.candidates) {
    std::string remarks;
    for (const CandidateRemark& remark : c.remarks) remarks += (remarks.empty() ? "" : "; ") + remark.text;
    text += fmt::format(
        "{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csv_field(c.name), c.parameters, csv_number(c.aicc),
        csv_number(c.delta_aicc), csv_number(c.weight), csv_number(c.bic),
        csv_number(c.leave_one_out.size.root_mean_square), csv_number(c.leave_one_out.size.in_uncertainties),
        csv_number(c.cross_validation.root_mean_square), csv_number(c.residual_sd), csv_number(c.reduced_chi_squared),
        csv_number(c.r_squared), csv_number(c.adjusted_r_squared), csv_number(c.largest_residual),
        c.largest_residual_row == 0 ? "" : fmt::format("{}", c.largest_residual_row), csv_number(c.added_p),
        csv_field(c.added_to), csv_field(remarks));
  }
  return text;
}

std::string averaged_prediction_text(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                     std::span<const AveragedPoint> values, Level level) {
  const Estimate& first = curves.front().estimate;
  const auto headed = [](const Quantity& q) {
    return q.unit.empty() ? q.name : fmt::format("{} ({})", q.name, q.unit);
  };
  std::string names;
  std::size_t slight = 0;
  for (const WeightedEstimate& curve : curves) {
    slight += curve.weight < 0.0005;
    if (curve.weight >= 0.0005)
      names += fmt::format("{}{} ({:.3f})", names.empty() ? "" : ", ", curve.name, curve.weight);
  }
  if (slight > 0) names += fmt::format(", {} with less than 0.0005", slight);
  std::string text =
      fmt::format("{}\naveraged over {} by weight\n\n", headed(first.response()), plural(curves.size(), "candidate")) +
      paragraph(fmt::format("Weights: {}.", names)) + "\n";
  std::vector<Grid::Heading> headings;
  for (const Quantity& predictor : first.predictors()) headings.push_back({headed(predictor), Align::point});
  headings.push_back({headed(first.response()), Align::point});
  headings.push_back({"SD between candidates", Align::point});
  headings.push_back({fmt::format("{} confidence band", level_text(level)), Align::left});
  headings.push_back({"prediction band", Align::left});
  const auto suggested =
      std::find_if(curves.begin(), curves.end(), [](const WeightedEstimate& curve) { return curve.is_suggested; });
  headings.push_back({suggested == curves.end() ? "" : fmt::format("{} alone", suggested->name), Align::left});
  headings.push_back({"", Align::left});
  Grid grid(headings, narrow_gap);
  const auto interval = [](const Interval& at) {
    return std::isnan(at.low) ? std::string("-") : interval_text(at.low, at.high, (at.high - at.low) / 4);
  };
  bool outside = false;
  for (std::size_t i = 0; i < values.size(); ++i) {
    const BandPoint& whole = values[i].whole;
    std::vector<std::string> cells;
    for (const Vector& x : points) cells.push_back(shortest(x[i]));
    cells.push_back(with_uncertainty(whole.value, whole.standard_uncertainty));
    cells.push_back(number_or_dash(values[i].between, 2));
    cells.push_back(interval(whole.confidence));
    cells.push_back(interval(whole.prediction));
    cells.push_back(suggested == curves.end()
                        ? ""
                        : interval(values[i].confidences[static_cast<std::size_t>(suggested - curves.begin())]));
    cells.push_back(whole.outside > 0 ? "outside the data" : "");
    outside = outside || whole.outside > 0;
    grid.add(std::move(cells));
  }
  text += grid.text() + "\n";
  text += paragraph(
      "The averaged bands include the disagreement between these candidates; they are approximate where rows are few.");
  if (suggested != curves.end())
    text +=
        paragraph(fmt::format("The confidence band of {} alone is conditional on its being the right curve: it was "
                              "chosen by the same data, and "
                              "does not include the uncertainty of that choice.",
                              suggested->name));
  for (const WeightedEstimate& curve : curves) {
    for (const std::string& remark : limit_remarks(curve.estimate)) text += item(curve.name + ": " + remark);
  }
  if (outside) text += item("Extrapolated outside the data: the bands hold only if one of the candidates does.");
  return text;
}

std::string averaged_prediction_csv(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                    std::span<const AveragedPoint> values) {
  const Estimate& first = curves.front().estimate;
  std::string text;
  for (const Quantity& predictor : first.predictors()) text += csv_field(predictor.name) + ",";
  text += csv_field(first.response().name) +
          ",standard_uncertainty,between,confidence_low,confidence_high,prediction_low,prediction_high,outside_data\n";
  for (std::size_t i = 0; i < values.size(); ++i) {
    for (const Vector& x : points) text += csv_number(x[i]) + ",";
    const BandPoint& p = values[i].whole;
    text += fmt::format("{},{},{},{},{},{},{},{}\n", csv_number(p.value), csv_number(p.standard_uncertainty),
                        csv_number(values[i].between), csv_number(p.confidence.low), csv_number(p.confidence.high),
                        csv_number(p.prediction.low), csv_number(p.prediction.high), csv_number(p.outside));
  }
  return text;
}

}  // namespace truecurve
