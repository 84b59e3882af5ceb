// What a page says of itself, and its sentences in words of an interface.
#include <truecurve/report/page.hpp>

namespace truecurve {

std::string answer_of(const Page& page) {
  if (!page.answer.empty()) return page.answer;
  for (const Block& block : page.lead.blocks) {
    if (const auto* said = std::get_if<Paragraph>(&block)) return said->text.text();
  }
  return page.subject;
}

Page spelled_out(Page page, const MeansWords& words) {
  const auto spell = [&words](Advice& advice) { advice = advice.text(words); };
  const auto spell_section = [&spell](PageSection& section) {
    for (Block& block : section.blocks) {
      if (auto* said = std::get_if<Paragraph>(&block)) spell(said->text);
      if (auto* item = std::get_if<Item>(&block)) spell(item->text);
    }
  };
  spell_section(page.lead);
  for (PageSection& section : page.sections) spell_section(section);
  for (Advice& caution : page.cautions) spell(caution);
  return page;
}

}  // namespace truecurve
