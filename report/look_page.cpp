// The pages of a first look at a table.
#include <truecurve/assess/straighten.hpp>
#include <truecurve/base/visible.hpp>
#include <truecurve/data/summary.hpp>
#include <truecurve/report/look_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <span>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::joined_remarks;
using detail::rows_text;

constexpr std::size_t longest_text = 60;  // of a cell or a name

std::string cell_text(const Column& column, std::size_t row) {
  if (const std::string* text = column.text_at(row)) return shortened(*text, longest_text);
  return std::isnan(column.numbers[row]) ? "(missing)" : shortest(column.numbers[row]);
}

// A column of two words may say whether something happened.
Advice text_remark(const Column& column) {
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
  return {
      fmt::format("'{}' holds two words, '{}' ({}) and '{}' ({}): as a response it is an event, of which one names the "
                  "one that counts",
                  column.name, shortened(words[0].first, longest_text), plural(words[0].second, "row"),
                  shortened(words[1].first, longest_text), plural(words[1].second, "row")),
      {Action::name_event, words[0].first},
      "."};
}

bool are_zeros_and_ones(const Column& column, const ColumnSummary& summary) {
  constexpr std::size_t fewest = 5;
  if (summary.count < fewest || summary.minimum != 0 || summary.maximum != 1) return false;
  return std::all_of(column.numbers.begin(), column.numbers.end(),
                     [](double value) { return std::isnan(value) || value == 0 || value == 1; });
}

std::string heading_of(const Column& column) {
  const std::string name = shortened(column.name, longest_text);
  return column.unit.empty() ? name : fmt::format("{} ({})", name, shortened(column.unit, longest_text));
}

constexpr std::size_t most_rows = 12;  // of an excerpt

// An excerpt: the rows of which something is said, with their neighbours, or else the first; of as many columns as
// anyone reads side by side.
PageTable rows_table(const Table& table, const std::set<std::size_t>& remarkable) {
  constexpr std::size_t most_columns = 30;
  constexpr std::size_t first_rows = 3;
  const auto columns = std::span(table.columns()).first(std::min(most_columns, table.columns().size()));
  const bool is_wider = columns.size() < table.columns().size();
  PageTable shown({{"row", Align::right}});
  for (const Column& column : columns)
    shown.headings.push_back({heading_of(column), column.is_text() ? Align::left : Align::point});
  if (is_wider) shown.headings.push_back({fmt::format("and {} more", table.columns().size() - columns.size())});
  std::set<std::size_t> rows;
  for (const std::size_t row : remarkable) {
    for (std::size_t k = row > 1 ? row - 1 : 1; k <= std::min(row + 1, table.rows()); ++k) rows.insert(k);
    if (rows.size() >= most_rows) break;
  }
  for (std::size_t k = 1; k <= std::min(first_rows, table.rows()) && remarkable.empty(); ++k) rows.insert(k);
  // A single row takes no more room than the dots in its place.
  std::size_t before = 0;
  for (const std::size_t row : std::vector<std::size_t>(rows.begin(), rows.end())) {
    if (row == before + 2) rows.insert(row - 1);
    before = row;
  }
  if (before > 0 && before + 1 == table.rows()) rows.insert(table.rows());
  std::size_t last = 0;
  const auto gap = [&] { shown.add(std::vector<std::string>(shown.headings.size(), "...")); };
  for (const std::size_t row : rows) {
    if (row != last + 1) gap();
    last = row;
    std::vector<std::string> cells = {fmt::format("{}", row)};
    for (const Column& column : columns) cells.push_back(cell_text(column, row - 1));
    if (is_wider) cells.emplace_back("...");
    shown.add(std::move(cells));
  }
  if (last < table.rows()) gap();
  return shown;
}

// What is to be known of a column of numbers before it is fitted.
void add_number_cautions(Page& page, const Column& column, const ColumnSummary& s) {
  if (s.texts > 0) {
    std::vector<std::size_t> at;
    for (const TextCell& cell : column.texts) at.push_back(cell.row + 1);
    const std::string& first = column.texts.front().text;
    const bool is_limit =
        first.starts_with('<') || first.starts_with('>') || first.starts_with("\u2264") || first.starts_with("\u2265");
    page.caution(
        fmt::format("'{}' holds text among its numbers in {} ('{}'): ", column.name, rows_text(at),
                    shortened(first, longest_text)) +
        (is_limit
             ? Advice{"limits are fitted as such when a distribution is chosen", {Action::choose_distribution}, "."}
             : fmt::format("a fit will ask what to do with {}.", at.size() == 1 ? "it" : "them")));
  }
  const bool is_event = are_zeros_and_ones(column, s);
  if (is_event)
    page.caution(
        {fmt::format("'{}' is 0 or 1 in every row, as an event that happened or did not: its probability can be "
                     "fitted",
                     column.name),
         {Action::name_event, "1"},
         "."});
  if (!is_event && !s.unusual.empty())
    page.caution(fmt::format("'{}' has {} far from its other values in {}: check {} in the notebook.", column.name,
                             s.unusual.size() == 1 ? "a value" : "values", rows_text(s.unusual),
                             s.unusual.size() == 1 ? "it" : "them"));
  if (s.count > 1 && s.minimum == s.maximum) page.caution(fmt::format("'{}' is the same in every row.", column.name));
}

void add_missing_caution(Page& page, const Column& column, std::size_t rows) {
  std::vector<std::size_t> at;
  for (std::size_t i = 0; i < rows; ++i) {
    if (column.is_missing(i)) at.push_back(i + 1);
  }
  page.caution(fmt::format("'{}' is missing in {}.", column.name, rows_text(at)));
}

// "8 levels, 4 times each".
std::string levels_text(const ColumnSummary& s) {
  if (s.levels == s.count) return "all different";
  const std::string repeats = s.least_repeats == s.most_repeats
                                  ? s.levels == 1 ? "" : fmt::format(", {} times each", s.most_repeats)
                                  : fmt::format(", {} to {} times each", s.least_repeats, s.most_repeats);
  return plural(s.levels, "level") + repeats;
}

// What is asked of a column of measurements: how many, from where to where, in which steps, how often each, in which
// order, and where most of them lie.
PageTable summary_table(const Table& table, const std::vector<ColumnSummary>& summaries) {
  PageTable shown({{"column", Align::left},
                   {"values", Align::left},
                   {"range", Align::left},
                   {"in steps of", Align::left},
                   {"levels", Align::left},
                   {"order", Align::left},
                   {"middle", Align::point},
                   {"half of them within", Align::left}},
                  PageTable::narrow);
  const auto number = [](double x) { return fmt::format("{:.5g}", x); };
  for (std::size_t k = 0; k < summaries.size(); ++k) {
    const ColumnSummary& s = summaries[k];
    if (table.columns()[k].is_text() || s.count == 0) continue;
    shown.add({shortened(table.columns()[k].name, longest_text),
               fmt::format("{}{}", s.count, s.missing > 0 ? fmt::format(", {} missing", s.missing) : ""),
               s.levels == 1 ? shortest(s.minimum) : fmt::format("{} to {}", shortest(s.minimum), shortest(s.maximum)),
               s.step > 0 ? shortest(s.step) : "-", levels_text(s),
               s.order == ColumnOrder::ascending    ? "ascending"
               : s.order == ColumnOrder::descending ? "descending"
                                                    : "none",
               number(s.median), fmt::format("{} to {}", number(s.lower_quartile), number(s.upper_quartile))});
  }
  return shown;
}

// "Columns: T (K), eta (mPa s) and 7 more."
std::string columns_sentence(const Table& table) {
  constexpr std::size_t most = 8;
  std::string list;
  for (std::size_t k = 0; k < std::min(most, table.columns().size()); ++k)
    list += (k == 0 ? "" : ", ") + heading_of(table.columns()[k]);
  const std::size_t more = table.columns().size() - std::min(most, table.columns().size());
  return fmt::format("Columns: {}{}.", list, more > 0 ? fmt::format(" and {} more", more) : "");
}

PageData summary_data(const Table& table, const std::vector<ColumnSummary>& summaries) {
  PageData data{.names = {"column", "unit", "n", "missing", "texts", "mean", "sd", "minimum", "lower_quartile",
                          "median", "upper_quartile", "maximum", "unusual", "levels", "step"}};
  for (std::size_t k = 0; k < summaries.size(); ++k) {
    const ColumnSummary& s = summaries[k];
    data.rows.push_back({table.columns()[k].name, table.columns()[k].unit, s.count, s.missing, s.texts, s.mean, s.sd,
                         s.minimum, s.lower_quartile, s.median, s.upper_quartile, s.maximum, s.unusual.size(), s.levels,
                         s.step});
  }
  return data;
}

}  // namespace

namespace {

// Rows of which the cautions speak: unusual values, words among numbers, missing cells; no more than an excerpt shows.
void add_remarkable(const Column& column, const ColumnSummary& summary, std::set<std::size_t>& rows) {
  const auto add = [&rows](std::size_t row) {
    if (rows.size() < most_rows) rows.insert(row);
  };
  for (const std::size_t row : summary.unusual) add(row);
  if (column.is_text()) return;
  for (const TextCell& cell : column.texts) add(cell.row + 1);
  for (std::size_t i = 0; i < column.numbers.size() && summary.missing > 0; ++i) {
    if (column.is_missing(i)) add(i + 1);
  }
}

}  // namespace

Page look_page(const Table& table) {
  Page page{.title = table.source().name.empty() ? "table" : table.source().name,
            .subject = fmt::format("{} of {}", plural(table.rows(), "row"), plural(table.columns().size(), "column"))};
  std::vector<ColumnSummary> summaries;
  for (const Column& column : table.columns()) summaries.push_back(summary_of(column));
  page.answer = columns_sentence(table);
  if (!table.source().remark.empty()) page.lead.say(fmt::format("Read as {}.", table.source().remark));
  page.section("Columns").show(summary_table(table, summaries));
  std::set<std::size_t> remarkable;
  for (std::size_t k = 0; k < summaries.size(); ++k) {
    const Column& column = table.columns()[k];
    if (column.is_text()) {
      page.caution(text_remark(column));
    } else {
      add_number_cautions(page, column, summaries[k]);
    }
    if (summaries[k].missing > 0) add_missing_caution(page, column, table.rows());
    add_remarkable(column, summaries[k], remarkable);
  }
  page.section("Rows").show(rows_table(table, remarkable));
  page.data = summary_data(table, summaries);
  return page;
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

std::vector<PageSection> pair_sections(const Observations& observations) {
  const std::string& y = observations.response().name;
  std::vector<Advice> remarks = look_remarks(observations);
  if (may_be_counts(observations))
    remarks.push_back(
        {fmt::format("{} holds whole numbers only: if these are counts, of decays or flaws say, their scatter follows "
                     "from their mean",
                     y),
         {Action::read_counts},
         ". Where each was counted for another time, volume or area, name that too",
         {Action::name_exposure},
         "."});
  PageSection together{.heading = fmt::format("{} against {}", y, observations.predictors()[0].name)};
  for (const Advice& remark : remarks) together.list(remark);
  const std::vector<Straightening> ways = straightenings(observations);
  if (ways.empty()) return {together};
  constexpr std::size_t shown = 5;
  PageSection axes{.heading = "Candidate axes for a straight line, best first by AICc of the measured response"};
  axes.say(straightness_sentence(observations, ways));
  axes.say("(those within 2 of the best are about equally well supported, and are listed commonest first)");
  PageTable table(
      {{"axes", Align::left}, {"ΔAICc", Align::point}, {"p (remaining curvature)", Align::left}, {"", Align::left}});
  for (std::size_t i = 0; i < std::min(shown, ways.size()); ++i) {
    const bool bent = ways[i].curvature_p < 0.05;
    table.add({ways[i].model, fmt::format("{:.1f}", ways[i].delta_aicc), detail::p_text(ways[i].curvature_p),
               joined_remarks({ways[i].meaning, bent ? "still curved" : ""})});
  }
  axes.show(std::move(table));
  return {together, axes};
}

}  // namespace truecurve
