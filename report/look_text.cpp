// The pages of a first look at a table.
#include <truecurve/assess/straighten.hpp>
#include <truecurve/data/summary.hpp>
#include <truecurve/report/text.hpp>

#include "deductions.hpp"
#include "page.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::Align;
using detail::csv_field;
using detail::csv_number;
using detail::Grid;
using detail::item;
using detail::joined_remarks;
using detail::paragraph;
using detail::plural;
using detail::row_list;

constexpr std::size_t rows_shown = 4;

std::string cell_text(const Column& column, std::size_t row) {
  if (const std::string* text = column.text_at(row)) return *text;
  return std::isnan(column.numbers[row]) ? "(missing)" : shortest(column.numbers[row]);
}

// A column of two words may say whether something happened.
std::string text_remark(const Column& column) {
  std::vector<std::pair<std::string, std::size_t>> words;
  for (const TextCell& cell : column.texts) {
    const auto at = std::find_if(words.begin(), words.end(), [&](const auto& word) { return word.first == cell.text; });
    if (at != words.end()) {
      ++at->second;
    } else {
      words.emplace_back(cell.text, 1);
    }
    if (words.size() > 2) break;
  }
  constexpr std::size_t fewest = 5;
  const bool only_words = column.texts.size() + column.missing_count() == column.numbers.size();
  if (words.size() != 2 || column.texts.size() < fewest || !only_words)
    return fmt::format("'{}' is a text column.", column.name);
  return fmt::format(
      "'{}' holds two words, '{}' ({}) and '{}' ({}): as a response it is an event, of which one names the one that "
      "counts (--event {}).",
      column.name, words[0].first, plural(words[0].second, "row"), words[1].first, plural(words[1].second, "row"),
      words[0].first);
}

bool are_zeros_and_ones(const Column& column, const ColumnSummary& summary) {
  constexpr std::size_t fewest = 5;
  if (summary.count < fewest || summary.minimum != 0 || summary.maximum != 1) return false;
  return std::all_of(column.numbers.begin(), column.numbers.end(),
                     [](double value) { return std::isnan(value) || value == 0 || value == 1; });
}

}  // namespace

std::string look_text(const Table& table) {
  std::string text = fmt::format("{}\n{} of {}\n\n", table.source().name.empty() ? "table" : table.source().name,
                                 plural(table.rows(), "row"), plural(table.columns().size(), "column"));
  if (!table.source().remark.empty()) text += paragraph(fmt::format("Read as {}.", table.source().remark)) + "\n";

  text += "Rows\n";
  std::vector<Grid::Heading> headings = {{"row", Align::right}};
  for (const Column& column : table.columns()) {
    headings.push_back({column.unit.empty() ? column.name : fmt::format("{} ({})", column.name, column.unit),
                        column.is_text() ? Align::left : Align::point});
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

  Grid grid({{"column", Align::left},
             {"n", Align::right},
             {"mean", Align::point},
             {"SD", Align::point},
             {"min", Align::point},
             {"lower quartile", Align::point},
             {"median", Align::point},
             {"upper quartile", Align::point},
             {"max", Align::point}});
  std::string remarks;
  bool any = false;
  for (const Column& column : table.columns()) {
    const ColumnSummary s = summary_of(column);
    if (column.is_text()) {
      remarks += item(text_remark(column));
    } else {
      any = true;
      const auto number = [](double x) { return std::isnan(x) ? std::string("-") : fmt::format("{:.5g}", x); };
      grid.add({column.name, fmt::format("{}", s.count), number(s.mean), number(s.sd), number(s.minimum),
                number(s.lower_quartile), number(s.median), number(s.upper_quartile), number(s.maximum)});
      if (s.texts > 0) {
        std::vector<std::size_t> at;
        for (const TextCell& cell : column.texts) at.push_back(cell.row + 1);
        const std::string& first = column.texts.front().text;
        const bool is_limit = first.starts_with('<') || first.starts_with('>') || first.starts_with("\u2264") ||
                              first.starts_with("\u2265");
        remarks += item(fmt::format("'{}' holds text among its numbers in row{} {} ('{}'): {}.", column.name,
                                    at.size() == 1 ? "" : "s", row_list(at), first,
                                    is_limit ? "limits are fitted as such with --distribution normal, lognormal or "
                                               "weibull"
                                    : at.size() == 1 ? "a fit will ask what to do with it"
                                                     : "a fit will ask what to do with them"));
      }
      const bool is_event = are_zeros_and_ones(column, s);
      if (is_event) {
        remarks += item(fmt::format(
            "'{}' is 0 or 1 in every row, as an event that happened or did not: its probability can be fitted (--event "
            "1).",
            column.name));
      }
      if (!is_event && !s.beyond_fences.empty()) {
        remarks +=
            item(fmt::format("'{}' has unusual values in row{} {} (more than 1.5 interquartile ranges outside the "
                             "quartiles).",
                             column.name, s.beyond_fences.size() == 1 ? "" : "s", row_list(s.beyond_fences)));
      }
      if (s.count > 1 && s.minimum == s.maximum)
        remarks += item(fmt::format("'{}' is the same in every row.", column.name));
    }
    if (s.missing > 0) {
      std::vector<std::size_t> at;
      for (std::size_t i = 0; i < table.rows(); ++i) {
        if (column.is_missing(i)) at.push_back(i + 1);
      }
      remarks +=
          item(fmt::format("'{}' is missing in row{} {}.", column.name, at.size() == 1 ? "" : "s", row_list(at)));
    }
  }
  if (any) text += "\nSummary\n" + grid.text();
  if (!remarks.empty()) text += "\nCautions\n" + remarks;
  return text;
}

namespace {

// Whole numbers without a unit, some of them different, none below 0: what counts look like.
bool may_be_counts(const Observations& observations) {
  const Vector& y = observations.responses();
  constexpr double round_numbers = 10;
  bool all_round = true;
  for (const double value : y) {
    if (!(value >= 0) || value != std::floor(value) || value > 1e9) return false;
    all_round = all_round && std::fmod(value, round_numbers) == 0;
  }
  const auto [least, most] = std::minmax_element(y.begin(), y.end());
  return observations.response().unit.empty() && !all_round && *most > 1 && *most > *least;
}

}  // namespace

std::string pair_text(const Observations& observations) {
  std::string text;
  std::vector<std::string> remarks = look_remarks(observations);
  if (may_be_counts(observations))
    remarks.push_back(
        fmt::format("{} holds whole numbers only: if these are counts, of decays or flaws say, their scatter follows "
                    "from their mean "
                    "(--counts, with --exposure where each was counted for another time, volume or area).",
                    observations.response().name));
  if (!remarks.empty()) {
    text += fmt::format("\n{} against {}\n", observations.response().name, observations.predictors()[0].name);
    for (const std::string& remark : remarks) text += item(remark);
  }
  const std::vector<Straightening> ways = straightenings(observations);
  if (ways.empty()) return text;
  constexpr std::size_t shown = 5;
  text += "\nCandidate axes for a straight line, best first by AICc of the measured response\n";
  text += paragraph("(those within 2 of the best are about equally well supported, and are listed commonest first)");
  Grid grid(
      {{"axes", Align::left}, {"ΔAICc", Align::point}, {"p (remaining curvature)", Align::left}, {"", Align::left}});
  for (std::size_t i = 0; i < std::min(shown, ways.size()); ++i) {
    const bool bent = ways[i].curvature_p < 0.05;
    grid.add({ways[i].model, fmt::format("{:.1f}", ways[i].delta_aicc),
              std::isnan(ways[i].curvature_p) ? "-" : probability_text(ways[i].curvature_p),
              joined_remarks({ways[i].meaning, bent ? "still curved" : ""})});
  }
  return text + grid.text();
}

std::string look_csv(const Table& table) {
  std::string text =
      "column,unit,n,missing,texts,mean,sd,minimum,lower_quartile,median,upper_quartile,maximum,beyond_fences\n";
  for (const Column& column : table.columns()) {
    const ColumnSummary s = summary_of(column);
    text += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csv_field(column.name), csv_field(column.unit),
                        s.count, s.missing, s.texts, csv_number(s.mean), csv_number(s.sd), csv_number(s.minimum),
                        csv_number(s.lower_quartile), csv_number(s.median), csv_number(s.upper_quartile),
                        csv_number(s.maximum), s.beyond_fences.size());
  }
  return text;
}

}  // namespace truecurve
