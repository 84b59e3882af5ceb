// What a page says of itself, and its sentences in words of an interface.
#include <truecurve/base/visible.hpp>
#include <truecurve/report/page.hpp>

#include <algorithm>
#include <utility>

namespace truecurve {

std::string answer_of(const Page& page) {
  if (!page.answer.empty()) return page.answer;
  for (const Block& block : page.lead.blocks) {
    if (const auto* said = std::get_if<Paragraph>(&block)) return said->text.text();
  }
  return page.subject;
}

namespace {

// Longer than any formula: a name or a cell that is as long as a file, which nobody reads to its end.
constexpr std::size_t longest_cell = 1000;
constexpr std::size_t longest_sentence = 2000;

void shorten_cells(PageTable& table) {
  for (Heading& heading : table.headings) heading.text = shortened(heading.text, longest_cell);
  for (auto& row : table.rows) {
    for (std::string& cell : row) cell = shortened(cell, longest_cell);
  }
}

}  // namespace

Page in_brief(Page page) {
  const auto is_first = [&page](const PageSection& section) { return &section == page.sections.data(); };
  const bool any =
      std::any_of(page.sections.begin(), page.sections.end(), [](const PageSection& s) { return s.in_brief; });
  std::vector<PageSection> kept;
  for (const PageSection& section : page.sections) {
    if (any ? section.in_brief : is_first(section)) kept.push_back(section);
  }
  page.sections = std::move(kept);
  return page;
}

Page spelled_out(Page page, const MeansWords& words) {
  const auto spell = [&words](Advice& advice) { advice = shortened(advice.text(words), longest_sentence); };
  const auto spell_section = [&spell](PageSection& section) {
    for (Block& block : section.blocks) {
      if (auto* table = std::get_if<PageTable>(&block)) shorten_cells(*table);
      if (auto* said = std::get_if<Paragraph>(&block)) spell(said->text);
      if (auto* item = std::get_if<Item>(&block)) spell(item->text);
    }
  };
  page.title = shortened(page.title, longest_sentence);
  page.subject = shortened(page.subject, longest_sentence);
  page.answer = shortened(page.answer, longest_sentence);
  spell_section(page.lead);
  for (PageSection& section : page.sections) spell_section(section);
  for (Advice& caution : page.cautions) spell(caution);
  return page;
}

}  // namespace truecurve
