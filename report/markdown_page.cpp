// A page as Markdown.
#include <truecurve/report/renderers.hpp>

#include "markup.hpp"

#include <fmt/format.h>

namespace truecurve {
namespace {

std::string markdown_escaped(const std::string& text) {
  return detail::replaced(text, {{"\\", "\\\\"},
                                 {"`", "\\`"},
                                 {"*", "\\*"},
                                 {"_", "\\_"},
                                 {"[", "\\["},
                                 {"]", "\\]"},
                                 {"<", "&lt;"},
                                 {">", "&gt;"},
                                 {"&", "&amp;"},
                                 {"|", "\\|"},
                                 {"#", "\\#"},
                                 {"~", "\\~"},
                                 {"\n", " "}});
}

class Markdown : public detail::Markup {
 public:
  [[nodiscard]] std::string heading(const std::string& text, int level) const override {
    return std::string(static_cast<std::size_t>(level), '#') + " " + markdown_escaped(text) + "\n\n";
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override {
    return markdown_escaped(text) + "\n\n";
  }
  [[nodiscard]] std::string list(const std::vector<std::string>& items) const override {
    std::string text;
    for (const std::string& item : items) text += "- " + markdown_escaped(item) + "\n";
    return text + "\n";
  }
  [[nodiscard]] std::string table(const PageTable& table) const override {
    std::string text = "|";
    for (const Heading& heading : table.headings) text += " " + markdown_escaped(heading.text) + " |";
    text += "\n|";
    for (const Heading& heading : table.headings)
      text += heading.align == Align::right || heading.align == Align::point ? " ---: |" : " --- |";
    text += "\n";
    for (const auto& row : table.rows) {
      text += "|";
      for (const std::string& cell : row)
        text += fmt::format(" {}{} |", detail::is_inset(cell) ? "&emsp;" : "",
                            markdown_escaped(detail::is_inset(cell) ? cell.substr(2) : cell));
      text += "\n";
    }
    return text + "\n";
  }
};

}  // namespace

std::string markdown_of(const Page& page) { return detail::page_in(Markdown(), page); }

}  // namespace truecurve
