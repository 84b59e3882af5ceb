// A page as text, HTML, Markdown, LaTeX and CSV: the same words and numbers, each in the form its readers expect.
#include <truecurve/report/fit_page.hpp>
#include <truecurve/report/renderers.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

// Everything a page can have, with characters that every form must take care of.
Page full_page() {
  Page page{.title = "T_1 = a*exp(-t/tau) & more", .subject = "fitted to all 4 rows"};
  page.lead.say("The share is 5 % at x < 3.");
  PageTable numbers({{"name"}, {"value", Align::point}, {"n", Align::right}, {"remark", Align::sentence}});
  numbers.add({"a", "12.5(3)", "7", "it is |given| as stated"});
  numbers.add({"tau_2", "-3", "12", ""});
  numbers.add({"b", "held", "3", "±2 µm"});
  page.section("Parameters").show(std::move(numbers));
  page.section("Nothing").show(PageTable({{"empty"}}));
  PageSection& lists = page.section("Lists");
  lists.list("one");
  lists.list("two");
  lists.say("After them.");
  page.caution("Row 3 is far out.");
  page.caution("");
  const double none = std::numeric_limits<double>::quiet_NaN();
  const double unbounded = std::numeric_limits<double>::infinity();
  page.data = {.names = {"name", "a,b"},
               .rows = {{"say \"x\"", 0.1}, {"", none}, {"c", unbounded}, {std::size_t{7}, -unbounded}}};
  return page;
}

TEST(Renderers, SetTextInPartsWithNumbersAtTheirPoint) {
  EXPECT_EQ(text_of(full_page()),
            "T_1 = a*exp(-t/tau) & more\n"
            "fitted to all 4 rows\n"
            "\n"
            "  The share is 5 % at x < 3.\n"
            "\n"
            "Cautions\n"
            "  - Row 3 is far out.\n"
            "\n"
            "Parameters\n"
            "  name    value      n   remark\n"
            "  a       12.5(3)    7   it is |given| as stated\n"
            "  tau_2   -3        12\n"
            "  b       held       3   ±2 µm\n"
            "\n"
            "Lists\n"
            "  - one\n"
            "  - two\n"
            "  After them.\n");
}

// A column in which nothing stands is left out, but for the first.
TEST(Renderers, LeaveEmptyColumnsOut) {
  Page page{.title = "t"};
  PageTable table({{"sample"}, {"flag"}, {"value"}});
  table.add({"", "", "7"});
  table.add({"", "", ""});
  page.lead.show(std::move(table));
  EXPECT_EQ(text_of(page), "t\n\n  sample   value\n           7\n\n");
  EXPECT_TRUE(has(markdown_of(page), "| sample | value |"));
}

// On a page of the web, tables of more than seven columns are set smaller.
TEST(Renderers, SetWideTablesSmaller) {
  for (const std::size_t columns : {7u, 8u}) {
    Page page{.title = "t"};
    PageTable table;
    std::vector<std::string> row;
    for (std::size_t k = 0; k < columns; ++k) {
      table.headings.push_back({"h"});
      row.emplace_back("1");
    }
    table.rows.push_back({});
    for (const std::string& text : row) table.rows.back().emplace_back(text);
    page.lead.show(std::move(table));
    EXPECT_EQ(html_of(page).find("<table class=\"many\">") != std::string::npos, columns > 7) << columns;
  }
}

TEST(Renderers, MarkHeadingsOfATerminal) {
  const std::string text =
      text_of(full_page(), {.columns = 60, .before_heading = "<", .before_cautions = "!", .after_heading = ">"});
  for (const char* heading : {"<T_1 = a*exp(-t/tau) & more>\n", "<Parameters>\n", "!Cautions>\n"})
    EXPECT_TRUE(has(text, heading));
  EXPECT_FALSE(has(text, "<fitted"));
  // In the lead, which has no headings, sentences and tables are set apart; in a section they are not.
  Page apart{.title = "t"};
  PageTable table({{"name"}});
  table.add({"a"});
  apart.lead.say("One.");
  apart.lead.show(table);
  PageSection& section = apart.section("Section");
  section.say("Two.");
  section.show(table);
  EXPECT_EQ(text_of(apart), "t\n\n  One.\n\n  name\n  a\n\nSection\n  Two.\n  name\n  a\n");
  // No title, no marks; none before it, none behind it.
  EXPECT_EQ(text_of(Page{.subject = "rows"}, {.before_heading = "<", .after_heading = ">"}), "rows\n");
  EXPECT_EQ(text_of(Page{.title = "rows"}, {.after_heading = ">"}), "rows\n");
}

// Whatever the width: no line is longer, no word is lost, each piece of a broken table begins with its first column.
TEST(Renderers, KeepToTheWidthOfTheTerminal) {
  const auto points = Observations::of({1, 2, 3, 4, 5, 6, 7, 8}, {3.1, 4.9, 7.2, 8.8, 11.3, 12.7, 15.2, 16.8});
  const Page page = fit_page(fit(shape_model("polynomial(2)"), points));
  const auto words = [](const std::string& text) {
    std::istringstream stream(text);
    std::vector<std::string> all;
    for (std::string word; stream >> word;) all.push_back(word);
    return all;
  };
  const std::vector<std::string> expected = words(text_of(page));
  for (const std::size_t columns : {46u, 57u, 80u, 100u, 140u}) {
    const std::string text = text_of(page, {.columns = columns});
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
      const auto width = std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xC0) != 0x80; });
      EXPECT_LE(static_cast<std::size_t>(width), columns) << line;
      EXPECT_TRUE(line.empty() || line.back() != ' ') << line;
    }
    std::vector<std::string> found = words(text);
    for (const std::string& word : expected)
      EXPECT_NE(std::find(found.begin(), found.end(), word), found.end()) << word << " at " << columns;
  }
  // Below 40 columns nothing could be set.
  EXPECT_EQ(text_of(page, {.columns = 10}), text_of(page, {.columns = 40}));
  EXPECT_NE(text_of(page, {.columns = 10}), text_of(page, {.columns = 41}));
}

// A table as wide as the page stands in one piece, one column more in two; each has the first column and one more.
TEST(Renderers, CutTablesThatAreTooWide) {
  const auto page_of = [](const std::string& first) {
    Page page;
    PageTable table({{"bell"}, {"tone_of_the_rim"}, {"tone_of_the_waist"}}, PageTable::narrow);
    table.add({first, "1", "2"});
    page.lead.show(std::move(table));
    return page;
  };
  const auto times = [](const std::string& text, const std::string& word) {
    int count = 0;
    for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) ++count;
    return count;
  };
  const Page page = page_of("the bell of the gate");
  const std::string whole = text_of(page);
  const std::size_t width = whole.find('\n');
  ASSERT_GT(width, 41u);
  EXPECT_EQ(text_of(page, {.columns = width}), whole);
  EXPECT_EQ(times(text_of(page, {.columns = width - 1}), "bell of"), 2);
  EXPECT_EQ(times(text_of(page_of(std::string(50, 'o')), {.columns = 40}), "bell"), 2);
}

// Each piece takes as many columns as fit; a table without headings has what is left over beneath its rows.
TEST(Renderers, FillEachPieceOfATable) {
  const auto lines = [](const PageTable& table, std::size_t width) {
    Page page;
    page.lead.show(table);
    return text_of(page, {.columns = width});
  };
  // 2 + 10, then gaps of 2: 30 columns alone; then 13 and 11 fit into 40 to the last, and 14 and 11 do not.
  for (const std::size_t third : {13U, 14U}) {
    const std::string name(third, 'c');
    PageTable table({{"the bells"}, {std::string(24, 'b')}, {name}, {std::string(11, 'd')}}, PageTable::narrow);
    table.add({"of the men", "1", "2", "3"});
    const std::string text = lines(table, 40);
    EXPECT_EQ(text.find("the bells   " + name + "  ddd") != std::string::npos, third == 13) << text;
    EXPECT_EQ(text.find("\n  the bells   ddd") != std::string::npos, third == 14) << text;
  }
  PageTable remarks({{""}, {""}, {""}, {""}});
  remarks.add({std::string(30, 'a'), "1", std::string(20, 'c'), "d e"});
  EXPECT_EQ(lines(remarks, 40), "  " + std::string(30, 'a') + "   1\n      " + std::string(20, 'c') + "\n      d e\n");
  // Numbers stand under one another by their points, words by their beginnings.
  PageTable numbers({{"n", Align::point}, {"w", Align::left}});
  numbers.add({"112.5", "1.5"});
  numbers.add({"3", "22.5"});
  numbers.add({"-0.25", "a"});
  EXPECT_EQ(lines(numbers, 40), "  n        w\n  112.5    1.5\n    3      22.5\n   -0.25   a\n");
}

TEST(Renderers, EscapeWhatTheFormTakesForItsOwn) {
  const std::string html = html_of(full_page());
  for (const char* part :
       {"<h2>T_1 = a*exp(-t/tau) &amp; more</h2>", "<p>The share is 5 % at x &lt; 3.</p>", "<h3>Parameters</h3>",
        "<th colspan=\"2\">value</th>", "<td class=\"number\">12</td><td class=\"fraction\">.5(3)</td>",
        "<td colspan=\"2\">held</td>", "<td class=\"whole\">12</td>",
        "<ul><li>one</li>\n<li>two</li>\n</ul>\n<p>After them.</p>"})
    EXPECT_TRUE(has(html, part));
  EXPECT_FALSE(has(html, "Nothing"));

  const std::string markdown = markdown_of(full_page());
  for (const char* part :
       {"## T\\_1 = a\\*exp(-t/tau) &amp; more\n\n", "### Parameters\n\n",
        "| name | value | n | remark |\n| --- | ---: | ---: | --- |\n",
        "| a | 12.5(3) | 7 | it is \\|given\\| as stated |\n", "### Cautions\n\n- Row 3 is far out.\n"})
    EXPECT_TRUE(has(markdown, part));

  const std::string latex = latex_of(full_page());
  for (const char* part :
       {"\\section*{T\\_1 = a*exp(-t/tau) \\& more}", "5 \\% at x \\ensuremath{<} 3.",
        "\\begin{tabular}{lr@{}lrp{0.5\\linewidth}}", "name & \\multicolumn{2}{l}{value} & n & remark \\\\",
        "a & 12 & .5(3) & 7 & it is |given| as stated \\\\", "b & \\multicolumn{2}{l}{held} & 3",
        "\\ensuremath{\\pm}2 \\ensuremath{\\mu}m \\\\", "\\begin{itemize}\n  \\item one\n  \\item two\n"})
    EXPECT_TRUE(has(latex, part));
}

// In HTML what is longer than a name may be broken.
TEST(Renderers, BreakSentencesInCells) {
  Page page{.title = "t"};
  PageTable table({{"name", Align::left}, {"note", Align::sentence}});
  table.add({std::string(30, 'n'), "short"});
  table.add({std::string(31, 'n'), ""});
  page.lead.show(std::move(table));
  const std::string html = html_of(page);
  EXPECT_TRUE(has(html, "<td>" + std::string(30, 'n') + "</td><td class=\"words\">short</td>"));
  EXPECT_TRUE(has(html, "<td class=\"words\">" + std::string(31, 'n') + "</td>"));
}

// A row that belongs to the one above is set in, and says the same in every form.
TEST(Renderers, SetRowsIn) {
  Page page{.title = "y"};
  PageTable table({{"source"}, {"n", Align::right}});
  table.add({"residual", "5"});
  table.add({"  pure error", "3"});
  page.section("Variance").show(std::move(table));
  EXPECT_TRUE(has(text_of(page), "\n    pure error   3"));
  EXPECT_TRUE(has(markdown_of(page), "| &emsp;pure error | 3 |"));
  EXPECT_TRUE(has(html_of(page), "<td class=\"inset\">  pure error</td>"));
  EXPECT_TRUE(has(latex_of(page), "pure error & 3"));
}

// A terminal shows letters of East Asia in two columns and marks above letters in none.
TEST(Renderers, SetTablesByTheColumnsThatATerminalShows) {
  Page page;
  PageTable table({{"bell"}, {"f"}}, PageTable::narrow);
  table.add({"\u9418", "1"});              // one letter, two columns
  table.add({"cloche e\u0301t", "2"});     // nine columns, and an accent of its own
  table.add({std::string("b\xff"), "3"});  // no UTF-8
  page.lead.show(std::move(table));
  EXPECT_EQ(text_of(page), "  bell       f\n  \u9418         1\n  cloche e\u0301t  2\n  b<0xFF>    3\n");
}

// In lines of words, too; what is no UTF-8 takes the column of the mark that a terminal shows for it.
TEST(OnPage, CountsTheColumnsThatATerminalShows) {
  const auto lines = [](const std::string& first) {
    const std::string set = on_page(first + " b", 40);
    return std::count(set.begin(), set.end(), '\n');
  };
  for (const auto& [letter, most] :
       std::map<std::string, std::size_t>{{"a", 38}, {"\xff", 38}, {"\u9418", 19}, {"a\x01", 38}, {"e\u0301", 38}}) {
    std::string word;
    for (std::size_t i = 0; i < most; ++i) word += letter;
    EXPECT_EQ(lines(word), 1) << letter;
    EXPECT_EQ(lines(word + letter), 2) << letter;
  }
}

// What LaTeX takes for an option or a dash at the places where our pages have them.
TEST(Renderers, KeepBracketsAndOptionsInLatex) {
  Page page;
  PageTable table({{""}, {""}});
  table.add({"[Pb]", "1"});
  page.lead.show(std::move(table));
  page.lead.list("[sic] use --spread both");
  const std::string latex = latex_of(page);
  EXPECT_TRUE(has(latex, "\n{[}Pb{]} & 1"));
  EXPECT_TRUE(has(latex, "\\item {[}sic{]} use -{}-{}spread both"));
}

TEST(Renderers, WriteNumbersInFullAsCsv) {
  EXPECT_EQ(csv_of(full_page()), "name,\"a,b\"\n\"say \"\"x\"\"\",0.1\n,\nc,inf\n7,-inf\n");
}

// A spreadsheet computes what looks like a formula; a number is none.
TEST(Renderers, GuardFormulasForSpreadsheets) {
  Page page;
  page.data.names = {"@x", "y"};
  for (const auto& [text, cell] : std::map<std::string, std::string>{{"=1+1", "'=1+1"},
                                                                     {"+2", "+2"},
                                                                     {"+a", "'+a"},
                                                                     {"-2.5e3", "-2.5e3"},
                                                                     {"-", "'-"},
                                                                     {"--1", "'--1"},
                                                                     {"-5+x", "'-5+x"},
                                                                     {"+", "'+"},
                                                                     {"\t=1", "'\t=1"},
                                                                     {"\r", "\"'\r\""},
                                                                     {"\uff1d1", "'\uff1d1"},
                                                                     {"=a,\"b\"", "\"'=a,\"\"b\"\"\""},
                                                                     {"bell = 1", "bell = 1"},
                                                                     {"", ""}}) {
    page.data.rows = {{text, -1.5}};
    EXPECT_EQ(csv_of(page, {.guards_formulas = true}), "'@x,y\n" + cell + ",-1.5\n");
    EXPECT_EQ(csv_of(page).substr(0, 5), "@x,y\n");
  }
}

// The answer for a list is what the page says of itself, or its first sentence, or else what it is about.
// A sheet has 1,048,576 rows, one of them the names, and 16,384 columns.
TEST(Renderers, RefuseWhatASheetCannotHold) {
  const auto message = [](std::size_t rows, std::size_t columns) {
    Page page;
    page.data.names.resize(columns);
    page.data.rows.resize(rows);
    return test::caught([&] { (void)xlsx_of(page); }).message();
  };
  EXPECT_EQ(
      message(1'048'576, 2),
      "a table of 1048577 rows and 2 columns does not fit into a sheet, which has 1048576 rows and 16384 columns");
  Page widest;
  widest.data.names.resize(16'384);
  EXPECT_FALSE(xlsx_of(widest).empty());
  EXPECT_EQ(message(0, 16'385),
            "a table of 1 row and 16385 columns does not fit into a sheet, which has 1048576 rows and 16384 columns");
}

// Lines that stand against the margin are one paragraph; what is set in stays as it is.
TEST(OnPage, JoinsLinesToParagraphs) {
  EXPECT_EQ(on_page("one\ntwo\n\n  a  line\nthree\nfour", 80), "one two\n\n  a  line\nthree four\n");
  EXPECT_EQ(on_page("one two three", 40, 4), "    one two three\n");
  EXPECT_EQ(on_page("", 80), "");
  // However wide the terminal: no more than 100 columns are read with ease.
  std::string words;
  for (int i = 0; i < 30; ++i) words += " word";
  for (const auto& [first, columns] : {std::pair{"fifth", 100U}, {"sixths", 96U}})
    EXPECT_EQ(on_page(first + words, 200).find('\n'), columns) << first;
}

// In brief, what is meant for it stays, and where nothing is, what comes first.
TEST(Page, KeepsItsFirstSectionInBrief) {
  Page page;
  for (const char* heading : {"first", "second", "third"}) page.section(heading).say("It is so.");
  const auto kept = [&page] {
    std::string headings;
    for (const PageSection& section : in_brief(page).sections) headings += section.heading + ";";
    return headings;
  };
  EXPECT_EQ(kept(), "first;");
  page.sections[1].in_brief = page.sections[2].in_brief = true;
  EXPECT_EQ(kept(), "second;third;");
}

TEST(Page, AnswersInShort) {
  Page page{.subject = "8 rows"};
  EXPECT_EQ(answer_of(page), "8 rows");
  page.lead.list("an item is no answer");
  page.lead.say("b is 2.");
  EXPECT_EQ(answer_of(page), "b is 2.");
  page.answer = "b is about 2.";
  EXPECT_EQ(answer_of(page), "b is about 2.");
}

// Names and cells may be as long as a file: nothing that is read is, and the numbers in full stay whole.
TEST(Page, IsOfALengthThatIsRead) {
  const std::string endless(100'000, 'n');
  Page page{.title = endless, .subject = endless, .answer = endless};
  page.lead.say(endless);
  PageSection& section = page.section("Rows");
  section.list(endless);
  PageTable table({{endless}, {"value"}});
  table.add({"1", endless});
  section.show(table);
  page.caution(endless);
  page.data = {.names = {endless}, .rows = {{endless}}};
  const Page shown = spelled_out(page, {});
  const auto is_short = [&endless](const std::string& text, std::size_t most) {
    return text == shortened(endless, most);
  };
  for (const std::string& text :
       {shown.title, shown.subject, shown.answer, std::get<Paragraph>(shown.lead.blocks[0]).text.text(),
        std::get<Item>(shown.sections[0].blocks[0]).text.text(), shown.cautions[0].text()})
    EXPECT_TRUE(is_short(text, 2000)) << text.size();
  const auto& cells = std::get<PageTable>(shown.sections[0].blocks[1]);
  EXPECT_TRUE(is_short(cells.headings[0].text, 1000));
  EXPECT_TRUE(is_short(cells.rows[0][1], 1000));
  EXPECT_EQ(cells.rows[0][0], "1");
  EXPECT_EQ(csv_of(shown), endless + "\n" + endless + "\n");
  // What is just as long as may be stays whole.
  for (const std::size_t beyond : {0U, 1U}) {
    Page just{.title = std::string(2000 + beyond, 'n')};
    PageTable one({{std::string(1000 + beyond, 'n')}});
    one.add({"1"});
    just.lead.show(one);
    const Page read = spelled_out(just, {});
    EXPECT_EQ(read.title == just.title, beyond == 0);
    EXPECT_EQ(std::get<PageTable>(read.lead.blocks[0]).headings[0].text == one.headings[0].text, beyond == 0);
  }
}

// A fit's page as numbers: those of the fit, to the last digit.
TEST(FitPage, HasTheFitsNumbersInFull) {
  const auto points = Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
  const Fit line = fit(shape_model("line"), points);
  const Page page = fit_page(line, {.level = 0.9});
  ASSERT_EQ(page.data.rows.size(), 2U);
  const auto at = [&](std::size_t row, const char* name) {
    const auto place = std::find(page.data.names.begin(), page.data.names.end(), name);
    return std::get<double>(page.data.rows[row][static_cast<std::size_t>(place - page.data.names.begin())]);
  };
  EXPECT_EQ(at(1, "value"), line.parameter("b").value);
  EXPECT_EQ(at(1, "level"), 0.9);
  // S = sqrt(0.082/2) by hand; u(b) = S/sqrt(5), and the interval ends Student's t of 2 degrees away.
  const double u = std::sqrt(0.082 / 2 / 5);
  EXPECT_NEAR(at(1, "standard_uncertainty"), u, 1e-12);
  EXPECT_NEAR(at(1, "high") - at(1, "value"), 2.919985580355516 * u, 1e-10);
  EXPECT_NEAR(at(1, "t"), 1.94 / u, 1e-9);
}

}  // namespace
}  // namespace truecurve
