// What a page says of itself.
#include <truecurve/report/page.hpp>

namespace truecurve {

std::string answer_of(const Page& page) {
  if (!page.answer.empty()) return page.answer;
  for (const Block& block : page.lead.blocks) {
    if (const auto* said = std::get_if<Paragraph>(&block)) return said->text;
  }
  return page.subject;
}

}  // namespace truecurve
