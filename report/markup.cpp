// The walk over a page.
#include "markup.hpp"

#include <truecurve/base/visible.hpp>

#include <algorithm>

namespace truecurve::detail {

std::string blocks_in(const Markup& markup, const PageSection& section) {
  std::string text;
  std::vector<std::string> items;
  const auto close = [&] {
    if (!items.empty()) text += markup.list(items);
    items.clear();
  };
  for (const Block& block : section.blocks) {
    if (const auto* item = std::get_if<Item>(&block)) {
      items.push_back(item->text.text());
      continue;
    }
    close();
    if (const auto* said = std::get_if<Paragraph>(&block)) {
      text += markup.paragraph(said->text.text());
    } else {
      text += markup.table(without_empty_columns(std::get<PageTable>(block)));
    }
  }
  close();
  return text;
}

std::vector<std::string> plain(const std::vector<Advice>& cautions) {
  std::vector<std::string> said;
  for (const Advice& caution : cautions) said.push_back(caution.text());
  return said;
}

std::string page_in(const Markup& markup, const Page& page) {
  std::string text;
  if (!page.title.empty()) text += markup.heading(page.title, 2);
  if (!page.subject.empty()) text += markup.paragraph(page.subject);
  text += blocks_in(markup, page.lead);
  if (!page.cautions.empty()) text += markup.heading("Cautions", 3) + markup.list(plain(page.cautions));
  for (const PageSection& section : page.sections) {
    if (!section.blocks.empty()) text += markup.heading(section.heading, 3) + blocks_in(markup, section);
  }
  return text;
}

std::string replaced(std::string_view given, const std::vector<std::pair<std::string_view, std::string_view>>& marks) {
  const std::string text = visible(given);
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const auto mark = std::find_if(marks.begin(), marks.end(), [&](const auto& known) {
      return std::string_view(text).substr(at).starts_with(known.first);
    });
    if (mark == marks.end()) {
      result += text[at++];
    } else {
      result += mark->second;
      at += mark->first.size();
    }
  }
  return result;
}

PageTable without_empty_columns(const PageTable& table) {
  PageTable kept({}, table.gap);
  kept.rows.resize(table.rows.size());
  for (std::size_t k = 0; k < table.headings.size(); ++k) {
    const bool says_something =
        k == 0 || std::any_of(table.rows.begin(), table.rows.end(), [k](const auto& row) { return !row[k].empty(); });
    if (!says_something) continue;
    kept.headings.push_back(table.headings[k]);
    for (std::size_t i = 0; i < table.rows.size(); ++i) kept.rows[i].push_back(table.rows[i][k]);
  }
  return kept;
}

bool is_inset(const std::string& cell) { return cell.starts_with("  "); }

bool has_headings(const PageTable& table) {
  return std::any_of(table.headings.begin(), table.headings.end(),
                     [](const Heading& heading) { return !heading.text.empty(); });
}

std::optional<std::pair<std::string, std::string>> at_point(const std::string& cell) {
  const bool is_number = cell.empty() || cell == "-" || cell.find_first_of("0123456789") < 2;  // perhaps with its sign
  if (!is_number) return {};
  const auto point = std::min(cell.find_first_of(".(e"), cell.size());
  return {{cell.substr(0, point), cell.substr(point)}};
}

}  // namespace truecurve::detail
