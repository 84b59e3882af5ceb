// Sets a page as text, HTML, Markdown, LaTeX or CSV. None of these throws an Error of its own.
//
// Example:
//     truecurve::Page page{.title = "T = a_0 + b*t"};
//     page.cautions = {"The slope is < 1."};
//     EXPECT_NE(truecurve::html_of(page).find("<li>The slope is &lt; 1.</li>"), std::string::npos);
//     EXPECT_NE(truecurve::markdown_of(page).find("a\\_0"), std::string::npos);
//     EXPECT_NE(truecurve::latex_of(page).find("a\\_0"), std::string::npos);
#pragma once

#include <truecurve/report/page.hpp>

#include <cstddef>
#include <string>

namespace truecurve {

/// How a text is set.
struct TextStyle {
  /// Of the terminal (at least 40): sentences are broken there, or at 100 as longer lines are hard to read, and tables
  /// that are wider stand in several pieces beneath each other, each with its first column. 0: sentences take 100
  /// columns, tables what they need.
  std::size_t columns = 0;
  std::string before_heading{};   ///< turns a colour on, say
  std::string before_cautions{};  ///< the same before the heading of the cautions
  std::string after_heading{};
};

/// UTF-8, lines indented by two blanks but for headings, no blanks at line ends.
[[nodiscard]] std::string text_of(const Page& page, const TextStyle& style = {});

/// A fragment: the title as a heading of the second level, sections of the third; all texts escaped.
[[nodiscard]] std::string html_of(const Page& page);

/// CommonMark with tables as most readers know them.
[[nodiscard]] std::string markdown_of(const Page& page);

/// A fragment for a document: sections without numbers, tables and lists, without packages of its own. Letters of names
/// and units that its fonts lack need an engine that knows Unicode.
[[nodiscard]] std::string latex_of(const Page& page);

/// How numbers are set for those who read them.
struct CsvStyle {
  bool decimal_comma = false;  ///< 1,5 with semicolons between the cells, as spreadsheets of many countries have it
  /// A spreadsheet takes a cell that begins with =, +, - or @ for a formula and computes it: such a text, unless it is
  /// a number, gets an apostrophe before it.
  bool guards_formulas = false;
};

/// The page's data, one line a row under the names: numbers in full, empty where one does not apply, inf and -inf where
/// it has no bound; quoted where it must be (RFC 4180).
[[nodiscard]] std::string csv_of(const Page& page, const CsvStyle& style = {});

/// The page's data as an Office Open XML workbook (.xlsx) of one sheet: the names in its first row, texts as texts
/// (never as formulas), numbers in full, cells empty where one does not apply. Throws Error (not_supported) for more
/// rows than a sheet has (1,048,576), Error (cannot_write) where there is no memory or room for it.
[[nodiscard]] std::string xlsx_of(const Page& page);

/// Paragraphs, with a blank line between them, broken into lines of so many columns (see TextStyle) behind `indent`
/// blanks; lines that are indented already stay as they are.
[[nodiscard]] std::string on_page(const std::string& text, std::size_t columns, std::size_t indent = 0);

}  // namespace truecurve
