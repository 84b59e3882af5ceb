// A page as HTML.
#include "html_page.hpp"

#include <truecurve/report/renderers.hpp>

#include "markup.hpp"

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::html_escaped;

class Html : public detail::Markup {
 public:
  [[nodiscard]] std::string heading(const std::string& text, int level) const override {
    return fmt::format("<h{}>{}</h{}>\n", level, html_escaped(text), level);
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override {
    return fmt::format("<p>{}</p>\n", html_escaped(text));
  }
  [[nodiscard]] std::string list(const std::vector<std::string>& items) const override {
    std::string text = "<ul>";
    for (const std::string& item : items) text += fmt::format("<li>{}</li>\n", html_escaped(item));
    return text + "</ul>\n";
  }
  [[nodiscard]] std::string table(const PageTable& table) const override {
    constexpr std::size_t many = 7;  // are set smaller
    std::string text =
        fmt::format("<div class=\"wide\"><table{}>\n", table.headings.size() > many ? " class=\"many\"" : "");
    if (detail::has_headings(table)) {
      text += "<tr>";
      for (const Heading& heading : table.headings)
        text += fmt::format("<th{}>{}</th>", heading.align == Align::point ? " colspan=\"2\"" : "",
                            html_escaped(heading.text));
      text += "</tr>\n";
    }
    for (const auto& row : table.rows) {
      text += "<tr>";
      for (std::size_t k = 0; k < row.size(); ++k) text += cell(row[k], table.headings[k].align);
      text += "</tr>\n";
    }
    return text + "</table></div>\n";
  }

 private:
  static std::string cell(const std::string& text, Align align) {
    // A sentence may be broken, a name or an interval not.
    constexpr std::size_t sentence = 30;
    if (align == Align::point) {  // two cells that meet at the decimal point
      const auto parts = detail::at_point(text);
      if (!parts) return fmt::format("<td colspan=\"2\">{}</td>", html_escaped(text));
      return fmt::format("<td class=\"number\">{}</td><td class=\"fraction\">{}</td>", html_escaped(parts->first),
                         html_escaped(parts->second));
    }
    const char* kind = align == Align::right                                ? " class=\"whole\""
                       : detail::is_inset(text)                             ? " class=\"inset\""
                       : align == Align::sentence || text.size() > sentence ? " class=\"words\""
                                                                            : "";
    return fmt::format("<td{}>{}</td>", kind, html_escaped(text));
  }
};

}  // namespace

namespace detail {

std::string html_escaped(const std::string& text) {
  return replaced(text, {{"<", "&lt;"}, {">", "&gt;"}, {"&", "&amp;"}, {"\"", "&quot;"}});
}

std::string html_of_blocks(const PageSection& section) { return blocks_in(Html(), section); }
std::string html_of_list(const std::vector<std::string>& items) { return Html().list(items); }

}  // namespace detail

std::string html_of(const Page& page) { return detail::page_in(Html(), page); }

}  // namespace truecurve
