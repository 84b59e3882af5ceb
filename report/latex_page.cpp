// A page as a fragment of LaTeX.
#include <truecurve/report/renderers.hpp>

#include "markup.hpp"

namespace truecurve {
namespace {

// Characters with a meaning of their own, and those of our pages that its fonts lack.
std::string latex_escaped(const std::string& text) {
  return detail::replaced(text, {{"\\", "\\textbackslash{}"},
                                 {"--", "-{}-{}"},  // no dash
                                 {"[", "{[}"},      // no option of the line or item before
                                 {"]", "{]}"},
                                 {"{", "\\{"},
                                 {"}", "\\}"},
                                 {"$", "\\$"},
                                 {"&", "\\&"},
                                 {"#", "\\#"},
                                 {"%", "\\%"},
                                 {"_", "\\_"},
                                 {"^", "\\textasciicircum{}"},
                                 {"~", "\\textasciitilde{}"},
                                 {"<", "\\ensuremath{<}"},
                                 {">", "\\ensuremath{>}"},
                                 {"±", "\\ensuremath{\\pm}"},
                                 {"×", "\\ensuremath{\\times}"},
                                 {"·", "\\ensuremath{\\cdot}"},
                                 {"−", "\\ensuremath{-}"},
                                 {"≤", "\\ensuremath{\\le}"},
                                 {"≥", "\\ensuremath{\\ge}"},
                                 {"²", "\\textsuperscript{2}"},
                                 {"³", "\\textsuperscript{3}"},
                                 {"°", "\\ensuremath{^\\circ}"},
                                 {"µ", "\\ensuremath{\\mu}"},
                                 {"μ", "\\ensuremath{\\mu}"},
                                 {"Δ", "\\ensuremath{\\Delta}"},
                                 {"Ω", "\\ensuremath{\\Omega}"},
                                 {"α", "\\ensuremath{\\alpha}"},
                                 {"β", "\\ensuremath{\\beta}"},
                                 {"σ", "\\ensuremath{\\sigma}"},
                                 {"τ", "\\ensuremath{\\tau}"},
                                 {"χ", "\\ensuremath{\\chi}"},
                                 {"√", "\\ensuremath{\\surd}"},
                                 {"…", "\\ldots{}"},
                                 {"\n", " "}});
}

class Latex : public detail::Markup {
 public:
  [[nodiscard]] std::string heading(const std::string& text, int level) const override {
    return (level == 2 ? "\\section*{" : "\\subsection*{") + latex_escaped(text) + "}\n\n";
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override { return latex_escaped(text) + "\n\n"; }
  [[nodiscard]] std::string list(const std::vector<std::string>& items) const override {
    std::string text = "\\begin{itemize}\n";
    for (const std::string& item : items) text += "  \\item " + latex_escaped(item) + "\n";
    return text + "\\end{itemize}\n\n";
  }
  [[nodiscard]] std::string table(const PageTable& table) const override {
    std::string text = "\\noindent\\begin{tabular}{";
    for (const Heading& heading : table.headings) text += columns(heading.align);
    text += "}\n";
    if (detail::has_headings(table)) {
      for (std::size_t k = 0; k < table.headings.size(); ++k) {
        const std::string words = latex_escaped(table.headings[k].text);
        text += (k == 0 ? "" : " & ") +
                (table.headings[k].align == Align::point ? "\\multicolumn{2}{l}{" + words + "}" : words);
      }
      text += " \\\\\n\\hline\n";
    }
    for (const auto& row : table.rows) {
      for (std::size_t k = 0; k < row.size(); ++k) {
        if (k > 0) text += " & ";
        if (table.headings[k].align != Align::point) {
          text += (detail::is_inset(row[k]) ? "\\quad " : "") + latex_escaped(row[k]);
          continue;
        }
        const auto parts = detail::at_point(row[k]);
        text += parts ? latex_escaped(parts->first) + " & " + latex_escaped(parts->second)
                      : "\\multicolumn{2}{l}{" + latex_escaped(row[k]) + "}";
      }
      text += " \\\\\n";
    }
    return text + "\\end{tabular}\n\n";
  }

 private:
  // A number stands in two columns that meet at its decimal point.
  static std::string columns(Align align) {
    switch (align) {
      case Align::left: return "l";
      case Align::right: return "r";
      case Align::point: return "r@{}l";
      case Align::sentence: return "p{0.5\\linewidth}";
    }
    return "l";
  }
};

}  // namespace

std::string latex_of(const Page& page) { return detail::page_in(Latex(), page); }

}  // namespace truecurve
