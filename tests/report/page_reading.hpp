// Pages as tests read them: tables by section and heading, numbers by name, cautions by their words.
#pragma once

#include <truecurve/report/page.hpp>
#include <truecurve/report/renderers.hpp>

#include <algorithm>
#include <cmath>
#include <string>
#include <utility>
#include <variant>

#include <gtest/gtest.h>

namespace truecurve::test {

inline const PageTable& table_in(const Page& page, const std::string& heading) {
  static const PageTable none;
  const auto in = [](const PageSection& section) -> const PageTable& {
    for (const Block& block : section.blocks) {
      if (const auto* table = std::get_if<PageTable>(&block)) return *table;
    }
    return none;
  };
  if (heading.empty()) return in(page.lead);
  for (const PageSection& section : page.sections) {
    if (section.heading.starts_with(heading)) return in(section);
  }
  ADD_FAILURE() << "no section '" << heading << "' in\n" << text_of(page);
  return none;
}

// The cell in the row that begins with `first`, under a heading.
inline std::string cell(const Page& page, const std::string& section, const std::string& first,
                        const std::string& heading) {
  const PageTable& table = table_in(page, section);
  const auto column =
      std::find_if(table.headings.begin(), table.headings.end(), [&](const Heading& h) { return h.text == heading; });
  const auto row =
      std::find_if(table.rows.begin(), table.rows.end(), [&](const auto& cells) { return cells[0] == first; });
  if (column == table.headings.end() || row == table.rows.end()) return "(none)";
  return (*row)[static_cast<std::size_t>(column - table.headings.begin())];
}

// The second and third cells of a table without headings.
inline std::pair<std::string, std::string> line(const Page& page, const std::string& section,
                                                const std::string& first) {
  for (const auto& row : table_in(page, section).rows) {
    if (row[0] == first) return {row[1], row[2]};
  }
  return {"(none)", ""};
}

inline double number(const Page& page, std::size_t row, const std::string& name) {
  const auto at = std::find(page.data.names.begin(), page.data.names.end(), name);
  if (at == page.data.names.end()) return std::nan("");
  const Datum& datum = page.data.rows[row][static_cast<std::size_t>(at - page.data.names.begin())];
  const auto* whole = std::get_if<std::size_t>(&datum);
  return whole != nullptr ? static_cast<double>(*whole) : std::get<double>(datum);
}

inline bool has_caution(const Page& page, const std::string& words) {
  return std::any_of(page.cautions.begin(), page.cautions.end(),
                     [&](const Advice& caution) { return caution.text().find(words) != std::string::npos; });
}

/// All sentences of a page, a line each, without its tables and cautions.
inline std::string sentences(const Page& page) {
  std::string all;
  const auto add = [&all](const PageSection& section) {
    for (const Block& block : section.blocks) {
      if (const auto* paragraph = std::get_if<Paragraph>(&block)) all += paragraph->text.text() + "\n";
      if (const auto* item = std::get_if<Item>(&block)) all += item->text.text() + "\n";
    }
  };
  add(page.lead);
  for (const PageSection& section : page.sections) add(section);
  return all;
}

inline bool says(const Page& page, const std::string& words) {
  return sentences(page).find(words) != std::string::npos;
}

}  // namespace truecurve::test
