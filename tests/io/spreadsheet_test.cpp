// Spreadsheets and JSON as tables: what a spreadsheet program would have exported is what is read.
#include <truecurve/io/csv.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/report/renderers.hpp>

#include "../support.hpp"

#include <fstream>

#include <zip.h>

namespace truecurve {
namespace {

using Parts = std::map<std::string, std::string>;

std::string zip_of(const Parts& parts) {
  const test::TemporaryFolder folder;
  const std::string file = (folder / "made.zip").string();
  int problem = 0;
  zip_t* const archive = zip_open(file.c_str(), ZIP_CREATE, &problem);
  for (const auto& [name, text] : parts)
    zip_file_add(archive, name.c_str(), zip_source_buffer(archive, text.data(), text.size(), 0), 0);
  EXPECT_EQ(zip_close(archive), 0);
  return test::file_text(file);
}

std::string part_of(const std::string& bytes, const char* name) {
  zip_error_t problem;
  zip_t* const archive =
      zip_open_from_source(zip_source_buffer_create(bytes.data(), bytes.size(), 0, &problem), 0, &problem);
  zip_file_t* const file = zip_fopen(archive, name, 0);
  std::string text(1 << 16, ' ');
  text.resize(static_cast<std::size_t>(zip_fread(file, text.data(), text.size())));
  zip_fclose(file);
  zip_discard(archive);
  return text;
}

const std::string relation =
    R"(<Relationships><Relationship Id="r{}" Type="http://schemas/officeDocument/{}" Target="{}"/>{}</Relationships>)";

// The parts of a workbook of sheets: name and what stands in its sheetData.
Parts parts_of(const std::vector<std::pair<std::string, std::string>>& sheets, const std::string& more) {
  Parts parts;
  std::string list, relations;
  for (std::size_t k = 0; k < sheets.size(); ++k) {
    list += fmt::format(R"(<sheet name="{}" sheetId="{}" r:id="s{}"/>)", sheets[k].first, k + 1, k);
    relations += fmt::format(R"(<Relationship Id="s{0}" Type="x/worksheet" Target="worksheets/{0}.xml"/>)", k);
    parts[fmt::format("xl/worksheets/{}.xml", k)] =
        "<worksheet><sheetData>" + sheets[k].second + "</sheetData></worksheet>";
  }
  parts["_rels/.rels"] =
      fmt::format(fmt::runtime(relation), 0, "2006/relationships/officeDocument", "xl/workbook.xml", "");
  parts["xl/workbook.xml"] =
      fmt::format(R"(<workbook xmlns:r="r"><workbookPr {}/><sheets>{}</sheets></workbook>)", more, list);
  parts["xl/_rels/workbook.xml.rels"] =
      fmt::format(fmt::runtime(relation), 9, "x/sharedStrings", "/xl/strings.xml",
                  relations + R"(<Relationship Id="st" Type="x/styles" Target="styles.xml"/>)");
  parts["xl/strings.xml"] =
      "<sst><si><t>t (min)</t></si><si><r><t>T </t></r><r><t>(°C)</t></r><rPh><t>no</t></rPh></si>"
      "<si><t>a, &quot;b&quot;\n c</t></si></sst>";
  parts["xl/styles.xml"] =
      R"(<styleSheet><numFmts><numFmt numFmtId="164" formatCode="[$-407]dd\.mm\.yyyy&quot;h&quot;;General"/>
<numFmt numFmtId="165" formatCode="[h]:mm"/><numFmt numFmtId="166" formatCode="0.0 &quot;days&quot;"/>
<numFmt numFmtId="167" formatCode="yyyy\-mm\-dd hh:mm"/><numFmt numFmtId="168" formatCode="mm:ss.0;@"/></numFmts>
<cellStyleXfs><xf numFmtId="14"/></cellStyleXfs>
<cellXfs><xf numFmtId="0"/><xf numFmtId="164"/><xf numFmtId="22"/><xf numFmtId="165"/><xf numFmtId="166"/><xf numFmtId="167"/><xf numFmtId="168"/></cellXfs></styleSheet>)";
  return parts;
}

std::string xlsx_with(const std::vector<std::pair<std::string, std::string>>& sheets, const std::string& more = "") {
  return zip_of(parts_of(sheets, more));
}

std::string ods_with(const std::string& tables) {
  return zip_of({{"mimetype", "application/vnd.oasis.opendocument.spreadsheet"},
                 {"content.xml", "<office:document-content><office:body><office:spreadsheet>" + tables +
                                     "</office:spreadsheet></office:body></office:document-content>"}});
}

Table read_bytes(const std::string& bytes, const CsvOptions& options = {}) {
  std::istringstream stream(bytes);
  return read_csv(stream, "lab", options);
}

// Everything but where it came from.
void expect_same(const Table& one, const Table& other) {
  ASSERT_EQ(one.columns().size(), other.columns().size());
  ASSERT_EQ(one.rows(), other.rows());
  for (std::size_t k = 0; k < one.columns().size(); ++k) {
    const Column& a = one.columns()[k];
    const Column& b = other.columns()[k];
    EXPECT_EQ(a.header, b.header);
    EXPECT_EQ(a.name, b.name);
    EXPECT_EQ(a.unit, b.unit);
    for (std::size_t i = 0; i < one.rows(); ++i) {
      EXPECT_TRUE(a.numbers[i] == b.numbers[i] || (std::isnan(a.numbers[i]) && std::isnan(b.numbers[i])))
          << a.name << i;
      EXPECT_EQ(a.text_at(i) == nullptr ? "" : *a.text_at(i), b.text_at(i) == nullptr ? "" : *b.text_at(i));
    }
  }
}

const std::string header = R"(<row r="3"><c r="B3" t="s"><v>0</v></c><c r="C3" t="s"><v>1</v></c></row>)";

TEST(Spreadsheet, IsReadAsItsExportWouldBe) {
  struct Case {
    const char* what;
    std::string bytes;
    const char* csv;
  };
  const std::vector<Case> cases = {
      {"shared and rich texts, a title, cells that say where they stand",
       xlsx_with({{"Data", R"(<row r="1"><c r="B1" t="inlineStr"><is><t>Casting 7</t></is></c></row>)" + header +
                               R"(<row r="4"><c r="B4"><v>1</v></c><c r="C4"><v>9.8049999999999997E2</v></c></row>)"
                               R"(<row r="6"><c r="C6"><v>870</v></c></row>)"}}),
       "t (min),T (°C)\n1,980.5\n,870\n"},
      {"cells that do not, texts of formulas, errors, truth values, numbers as texts",
       xlsx_with(
           {{"Data",
             R"(<row><c t="inlineStr"><is><t>x</t></is></c><c t="str"><f>A1</f><v>y</v></c><c t="s"><v>2</v></c></row>)"
             R"(<row><c><v>1</v></c><c t="e"><v>#DIV/0!</v></c><c t="b"><v>1</v></c></row>)"
             R"(<row><c t="s"><v></v></c><c><f>A2*2</f><v>2</v></c><c t="b"><v>0</v></c></row>)"
             R"(<row><c t="str"><v>3</v></c><c><v>4</v></c></row>)"}}),
       "x,y,\"a, \"\"b\"\"  c\"\n1,\"#DIV/0!\",TRUE\n,2,FALSE\n3,4,\n"},
      {"prefixes",
       zip_of({{"_rels/.rels", fmt::format(fmt::runtime(relation), 1, "officeDocument", "book.xml", "")},
               {"_rels/book.xml.rels", fmt::format(fmt::runtime(relation), 1, "worksheet", "s.xml", "")},
               {"book.xml", R"(<x:workbook><x:sheets><x:sheet name="a" q:id="r1"/></x:sheets></x:workbook>)"},
               {"s.xml",
                "<x:worksheet><x:sheetData><x:row><x:c><x:v>1</x:v></x:c></x:row><x:row><x:c>"
                "<x:v>2</x:v></x:c></x:row></x:sheetData></x:worksheet>"}}),
       "1\n2\n"},
      {"dates and times",
       xlsx_with(
           {{"Data",
             R"(<row><c t="inlineStr"><is><t>a</t></is></c><c t="inlineStr"><is><t>b</t></is></c>)"
             R"(<c t="inlineStr"><is><t>c</t></is></c><c t="inlineStr"><is><t>d</t></is></c></row>)"
             R"(<row><c s="1"><v>1</v></c><c s="2"><v>36526.25</v></c><c s="3"><v>1.0625</v></c><c s="4"><v>1.5</v></c></row>)"
             R"(<row><c s="1"><v>59</v></c><c s="2"><v>36526.000011574</v></c><c s="3"><v>0</v></c><c s="4"><v>2</v></c></row>)"
             R"(<row><c s="1"><v>61</v></c><c s="2"><v>44927.5000057870</v></c><c s="3"><v>0.5</v></c><c s="4"><v>-2</v></c></row>)"
             R"(<row><c s="1"><v>-1</v></c><c s="2"><v>2958466</v></c><c s="9"><v>0.5</v></c></row>)"}}),
       "a,b,c,d\n1900-01-01,2000-01-01 06:00:00,25:30:00,1.5\n1900-02-28,2000-01-01 00:00:01,00:00:00,2\n"
       "1900-03-01,2023-01-01 12:00:00.500,12:00:00,-2\n-1,2958466,0.5,\n"},
      {"dates and times of formats of their own",
       xlsx_with({{"Data", R"(<row><c t="inlineStr"><is><t>a</t></is></c><c t="inlineStr"><is><t>b</t></is></c></row>)"
                           R"(<row><c s="5"><v>44927</v></c><c s="6"><v>0.5</v></c></row>)"}}),
       "a,b\n2023-01-01 00:00:00,12:00:00\n"},
      {"a remark beside one row, a preamble above",
       xlsx_with({{"Data", R"(<row><c t="inlineStr"><is><t>by</t></is></c></row>)"
                           R"(<row><c t="inlineStr"><is><t>x</t></is></c><c t="inlineStr"><is><t>y</t></is></c></row>)"
                           R"(<row><c><v>1</v></c><c><v>2</v></c></row>)"
                           R"(<row><c><v>2</v></c><c><v>3</v></c><c t="inlineStr"><is><t>slipped</t></is></c></row>)"
                           R"(<row><c><v>4</v></c><c><v>5</v></c></row>)"}}),
       "x,y,\n1,2,\n2,3,slipped\n4,5,\n"},
      {"days from 1904",
       xlsx_with({{"Data", R"(<row><c s="1"><v>0</v></c></row><row><c s="1"><v>35064</v></c></row>)"}},
                 R"(date1904="1")"),
       "1904-01-01\n2000-01-01\n"},
      {"an OpenDocument sheet",
       ods_with(
           R"(<table:table table:name="Data"><table:table-column/><table:table-header-rows><table:table-row>
<table:table-cell office:value-type="string"><text:p>t<text:s/>(min)</text:p></table:table-cell>
<table:table-cell office:value-type="string"><text:p>T <text:span>(°C)</text:span></text:p></table:table-cell>
<table:table-cell office:value-type="string" office:string-value="when"/>
<table:table-cell office:value-type="string"><text:p>clock</text:p></table:table-cell></table:table-row></table:table-header-rows>
<table:table-row table:number-rows-repeated="2"><table:table-cell office:value-type="float" office:value="1.5"><text:p>1,50</text:p></table:table-cell>
<table:covered-table-cell office:value-type="percentage" office:value="0.25"/>
<table:table-cell office:value-type="date" office:date-value="2026-11-24T08:15:30"/>
<table:table-cell office:value-type="time" office:time-value="PT08H05M03.500000S"/></table:table-row>
<table:table-row-group><table:table-row><table:table-cell table:number-columns-repeated="2" office:value-type="currency" office:value="7"/>
<table:table-cell office:value-type="date" office:date-value="2026-11-25"/><table:table-cell office:value-type="time" office:time-value="PT1H"/></table:table-row></table:table-row-group>
<table:table-row><table:table-cell/><table:table-cell office:value-type="float" office:value="3"/>
<table:table-cell office:value-type="boolean" office:boolean-value="true"/></table:table-row>
<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="1024"/></table:table-row></table:table>)"),
       "t (min),T (°C),when,clock\n1.5,0.25,2026-11-24 08:15:30,08:05:03.5\n1.5,0.25,2026-11-24 08:15:30,08:05:03.5\n"
       "7,7,2026-11-25,01:00:00\n,3,TRUE,\n"},
      {"rows of JSON",
       "\xEF\xBB\xBF{\"t (min)\": 1, \"T (°C)\": 980.5}\n{\"T (°C)\": 870, \"note\": \"a, \\\"b\\\"\\n c\"}\n"
       "{\"t (min)\": 12, \"T (°C)\": null, \"note\": true}\n",
       "t (min),T (°C),note\n1,980.5,\n,870,\"a, \"\"b\"\"  c\"\n12,,TRUE\n"},
      {"a list of JSON", " [ {\"x\": 1e-3}, {\"x\": \"n.d.\"},\n {}, {\"x\": 2}]", "x\n0.001\nNA\nNA\n2\n"},
  };
  for (const Case& c : cases) {
    SCOPED_TRACE(c.what);
    expect_same(read_bytes(c.bytes), read_bytes(c.csv));
  }
}

// Blank lines between rows of JSON count as lines and are no rows; a cell has one line.
TEST(Spreadsheet, KeepsTheLinesOfJson) {
  const Table table = read_bytes("{\"x\": 1, \"s\": \"a\\nb\\rc\\u0000d\"}\n\n{\"x\": 2}\n  \n");
  EXPECT_EQ(table.column("x").numbers, (std::vector<double>{1, 2}));
  EXPECT_EQ(*table.column("s").text_at(0), "a b c d");
  EXPECT_EQ(table.line(0), 1U);
  EXPECT_EQ(table.line(1), 3U);
}

// Durations of ISO 8601 as a clock shows them; what is none stays as it was written.
TEST(Spreadsheet, ReadsDurationsOfCells) {
  for (const auto& [duration, shown] : {std::pair{"PT08H05M03S", "08:05:03"},
                                        {"PT30M", "00:30:00"},
                                        {"PT90M5S", "00:90:05"},
                                        {"PT5S", "00:00:05"},
                                        {"PT25H", "25:00:00"},
                                        {"PT123456H1M", "123456:01:00"},
                                        {"PT1H30,5S", "01:00:30.5"},
                                        {"PT1H2M9.250S", "01:02:09.25"},
                                        {"PT0.0S", "00:00:00"},
                                        {"PT1H2M.5S", "01:02:00.5"},
                                        {"PT1H2X3S", "PT1H2X3S"},
                                        {"P1DT2H", "P1DT2H"}}) {
    const Table table = read_bytes(ods_with(fmt::format(
        R"(<table:table table:name="Data"><table:table-row>
<table:table-cell office:value-type="string"><text:p>clock</text:p></table:table-cell>
<table:table-cell office:value-type="string"><text:p>T</text:p></table:table-cell></table:table-row>
<table:table-row><table:table-cell office:value-type="time" office:time-value="{}"/>
<table:table-cell office:value-type="float" office:value="7"/></table:table-row></table:table>)",
        duration)));
    ASSERT_NE(table.column("clock").text_at(0), nullptr) << duration;
    EXPECT_EQ(*table.column("clock").text_at(0), shown) << duration;
  }
}

// ISO/IEC 29500-1, 18.8.30 and 18.8.31: what a number means is said by its format alone.
TEST(Spreadsheet, TellsTimesByTheirFormats) {
  const char* const number = "45000.25";
  const char* const date = "2023-03-15 06:00:00";  // 45000 days after 1899-12-30
  const char* const time = "1080006:00:00";
  // By what they show, codes and the numbers of built-in ones.
  const std::map<std::string, std::vector<std::string>> cases = {
      {number,
       {"[Red]0.00", "[&gt;=100]0", "\\d0.0", "_d0.0", "*d0.0", "0.0;[h]", "General", "&quot;s&quot;0", "[", "0[]",
        "13", "23", "44", "48"}},
      {time, {"[Blue][hh]:mm", "ss.00", "S", "H", "[s]", "[M]", "18", "19", "20", "21", "45", "46", "47"}},
      {date, {"[$-409]d/m/yy", "D&quot; h&quot;", "yyyy hh", "YYYY", "&quot;;&quot;d", "22", "14", "15", "16", "17"}}};
  for (const auto& [shown, formats] : cases) {
    for (const std::string& format : formats) {
      SCOPED_TRACE(format);
      Parts parts = parts_of(
          {{"Data", R"(<row><c t="inlineStr"><is><t>x</t></is></c></row><row><c s="1"><v>45000.25</v></c></row>)"}},
          "");
      const bool built_in = format.find_first_not_of("0123456789") == std::string::npos;
      parts["xl/styles.xml"] = fmt::format(
          R"(<styleSheet><numFmts><numFmt numFmtId="170" formatCode="{}"/></numFmts><cellXfs><xf numFmtId="0"/><xf numFmtId="{}"/></cellXfs></styleSheet>)",
          built_in ? "0" : format, built_in ? format : "170");
      expect_same(read_bytes(zip_of(parts)), read_bytes(fmt::format("x\n\"{}\"\n", shown)));
    }
  }
}

TEST(Spreadsheet, SaysWhichSheetAndCellsItRead) {
  const std::string numbers = "<row><c><v>1</v></c><c><v>2</v></c></row><row><c><v>3</v></c><c><v>4</v></c></row>";
  const std::string book =
      xlsx_with({{"Notes", R"(<row><c t="inlineStr"><is><t>only words</t></is></c></row>)"},
                 {"Data", numbers + R"(<row hidden="1"><c><v>5</v></c><c><v>6</v></c></row>)"},
                 {"2", R"(<row r="4"><c r="AB4"><v>7</v></c></row><row r="5"><c r="AB5"><v>8</v></c></row>)"}});
  const Table first = read_bytes(book);
  EXPECT_EQ(first.column("c2").numbers, (std::vector<double>{2, 4, 6}));
  EXPECT_EQ(first.source().said,
            (std::vector<std::string>{"the sheet 'Data' was read, of 3: 1 'Notes', 2 'Data', 3 '2'",
                                      "a row of the sheet 'Data' is hidden, and read all the same"}));
  EXPECT_EQ(first.source().remark, "a spreadsheet: the sheet 'Data'");
  // A name goes before a number.
  for (const char* last : {"2", "3"}) EXPECT_EQ(read_bytes(book, {.sheet = last}).column("c1").numbers[0], 7) << last;
  EXPECT_EQ(read_bytes(book, {.sheet = "data"}).source().said.size(), 1u);
  struct Chosen {
    const char* cells;
    std::vector<double> numbers;
  };
  for (const Chosen& c : {Chosen{"A2:B3", {3, 5}}, Chosen{"$b$1:$b$2", {2, 4}}, Chosen{"B:B", {2, 4, 6}},
                          Chosen{"2:2", {3}}, Chosen{"A1:XFD1048576", {1, 3, 5}}, Chosen{"b3:b3", {6}}})
    EXPECT_EQ(read_bytes(book, {.sheet = "Data", .cells = c.cells}).columns()[0].numbers, c.numbers) << c.cells;
  EXPECT_EQ(read_bytes(book, {.sheet = "2", .cells = "AB5:AB5"}).columns()[0].numbers[0], 8);
}

TEST(Spreadsheet, RefusesWithPlaceAndRemedy) {
  struct Case {
    std::string bytes;
    CsvOptions options;
    ErrorCode code;
    const char* part;
  };
  const std::string small = xlsx_with({{"Data", "<row><c><v>1</v></c></row>"}});
  const std::string open_formula = "<row><c><v>1</v></c></row><row><c r=\"D2\"><f>A1</f></c></row>";
  const std::vector<Case> cases = {
      {small, {.sheet = "Nix"}, ErrorCode::unknown_name, "no sheet 'Nix'"},
      {small, {.sheet = "2"}, ErrorCode::unknown_name, "its sheets are: 1 'Data'"},
      {small, {.cells = "B1:A2"}, ErrorCode::bad_argument, "'B1:A2' is not a range of cells"},
      {small, {.cells = "A0:B2"}, ErrorCode::bad_argument, "as in A3:D40"},
      {small, {.cells = "A:3"}, ErrorCode::bad_argument, "not a range"},
      {small, {.cells = "A1"}, ErrorCode::bad_argument, "not a range"},
      {small, {.cells = "1A:2B"}, ErrorCode::bad_argument, "not a range"},
      {small, {.cells = "B1:C9"}, ErrorCode::empty_file, "the cells B1:C9 of the sheet 'Data' are empty"},
      {xlsx_with({{"Data", ""}}), {}, ErrorCode::empty_file, "the sheet 'Data' is empty"},
      {xlsx_with({{"Data", open_formula}}), {}, ErrorCode::unsupported_file, "the cell D2 of the sheet 'Data'"},
      {xlsx_with({{"Data", R"(<row><c t="s"><v>77</v></c></row>)"}}), {}, ErrorCode::binary_file, "the cell A1"},
      {xlsx_with({{"Data", "<row><c>"}}), {}, ErrorCode::binary_file, "worksheets/0.xml"},
      {zip_of({{"a.txt", "b"}}), {}, ErrorCode::unsupported_file, "not a spreadsheet"},
      {zip_of({{"_rels/.rels", "<Relationships/>"}}), {}, ErrorCode::unsupported_file, "not a spreadsheet"},
      {zip_of({{"content.xml", "<a/>"}}), {}, ErrorCode::unsupported_file, "without sheets"},
      {"PK\x03\x04" + std::string(80, 'x'), {}, ErrorCode::binary_file, "damaged"},
      {"x,y\n1,2\n", {.cells = "A1:B2"}, ErrorCode::unsupported_file, "not a spreadsheet"},
      {"x,y\n1,2\n", {.sheet = "1"}, ErrorCode::unsupported_file, "no sheets"},
      {ods_with(R"(<table:table table:name="a"><table:table-row table:number-rows-repeated="1000000">)"
                R"(<table:table-cell office:value-type="float" office:value="1" table:number-columns-repeated="1000"/>)"
                "</table:table-row></table:table>"),
       {},
       ErrorCode::unsupported_file,
       "20 million"},
      {ods_with(R"(<table:table table:name="a"><table:table-row><table:table-cell table:formula="of:=A2"/>)"
                "</table:table-row></table:table>"),
       {},
       ErrorCode::unsupported_file,
       "the cell A1"},
      {"{\"x\": 1}\n{\"x\": [1]}\n", {}, ErrorCode::unsupported_file, "'x' is a list"},
      {"{\"x\": 1}\n{\"x\": 1\n", {}, ErrorCode::syntax, "lab:2"},
      {"{\"x\": 1}\n3\n", {}, ErrorCode::unsupported_file, "row 2"},
      {"[{\"x\": 1}", {}, ErrorCode::syntax, "not valid JSON"},
      {"{\"record\":\n\"truecurve.fit/1\"}", {}, ErrorCode::unsupported_file, "truecurve.fit/1"},
      {"{\"x\":\n1}", {}, ErrorCode::unsupported_file, "no table"},
      {"{\"x\": 1}\n", {.skipped_lines = 1}, ErrorCode::bad_argument, "can't be skipped"},
  };
  for (const Case& c : cases) {
    const Error error = test::caught([&] { (void)read_bytes(c.bytes, c.options); });
    EXPECT_EQ(error.code(), c.code) << error.what();
    EXPECT_TRUE(has(text_of(error.details()), c.part));
  }
}

// Cut anywhere, a file is refused or, where only a trailer is missing that nothing hangs on, read; nothing worse.
TEST(Spreadsheet, IsRefusedWhereItIsCutOrChanged) {
  const std::string whole =
      xlsx_with({{"Data", header + "<row r=\"4\"><c r=\"B4\"><v>1</v></c><c><v>2</v></c></row>"}});
  int read_all_the_same = 0;
  for (std::size_t length = 4; length < whole.size(); length += 7) {
    try {
      (void)read_bytes(whole.substr(0, length));
      ++read_all_the_same;
    } catch (const Error& error) {
      EXPECT_EQ(error.code(), ErrorCode::binary_file) << length;
    }
  }
  EXPECT_EQ(read_all_the_same, 0);
  for (std::size_t at = 4; at < whole.size(); at += 11) {
    std::string changed = whole;
    changed[at] = static_cast<char>(changed[at] ^ 0x15);
    try {
      (void)read_bytes(changed);
    } catch (const Error&) {
      // Whatever it is called.
    }
  }
}

// What is written for spreadsheet programs comes back: texts as texts, numbers to the sixteen digits that are kept.
TEST(Spreadsheet, TakesThePagesNumbers) {
  Page page;
  page.data.names = {"name", "value", "n", "high"};
  page.data.rows = {{std::string("=1+1"), 0.1, std::size_t{7}, infinity},
                    {std::string("a, \"b\""), -2.0 / 3, std::size_t{0}, not_a_number},
                    {std::string("°C"), 6.02214076e23, std::size_t{12}, 1e-300}};
  const Table table = read_bytes(xlsx_of(page));
  EXPECT_EQ(table.source().remark, "a spreadsheet: the sheet 'Numbers'");
  EXPECT_EQ(*table.column("name").text_at(0), "=1+1");
  EXPECT_EQ(*table.column("name").text_at(1), "a, \"b\"");
  EXPECT_EQ(*table.column("name").text_at(2), "°C");
  for (std::size_t i = 0; i < 3; ++i)
    EXPECT_NEAR(table.column("value").numbers[i] / std::get<double>(page.data.rows[i][1]), 1, 1e-15);
  EXPECT_EQ(table.column("n").numbers, (std::vector<double>{7, 0, 12}));
  EXPECT_EQ(*table.column("high").text_at(0), "inf");
  EXPECT_TRUE(table.column("high").is_missing(1));
  EXPECT_EQ(
      csv_of(page, {.decimal_comma = true}),
      "name;value;n;high\n=1+1;0,1;7;inf\n\"a, \"\"b\"\"\";-0,6666666666666666;0;\n°C;6,02214076e+23;12;1e-300\n");
  // A cell holds 32,767 characters; what is longer loses its middle.
  const std::string longer(40'000, 'a');
  std::string clefs;
  for (int i = 0; i < 8191; ++i) clefs += "𝄞";
  page.data = {.names = {"name", "low"}, .rows = {{longer, -infinity}, {longer.substr(0, 32766), 1.0}, {clefs, 2.0}}};
  const Table longest = read_bytes(xlsx_of(page));
  EXPECT_TRUE(*longest.column("name").text_at(0) == std::string(16383, 'a') + "…" + std::string(16383, 'a'));
  EXPECT_TRUE(*longest.column("name").text_at(1) == longer.substr(0, 32766));
  EXPECT_TRUE(*longest.column("name").text_at(2) == clefs);
  EXPECT_EQ(*longest.column("low").text_at(0), "-inf");
  page.data.names = {"n"};
  page.data.rows.assign(1'048'576, {});
  EXPECT_EQ(test::caught([&] { (void)xlsx_of(page); }).code(), ErrorCode::not_supported);
}

// The names stay in view, in columns that hold them: two characters more, from 9 to 40.
TEST(Spreadsheet, KeepsTheNamesInView) {
  Page page;
  page.data.names = {"n", std::string(7, 'a'), std::string(8, 'b'), std::string(38, 'c'), std::string(60, 'd')};
  page.data.rows = {{std::size_t{1}, 1.0, 2.0, 3.0, 4.0}};
  const std::string sheet = part_of(xlsx_of(page), "xl/worksheets/sheet1.xml");
  EXPECT_TRUE(has(sheet, "<pane ySplit=\"1\" topLeftCell=\"A2\" "));
  // Beside the characters five pixels of seven: 0.7109375 in steps of a 256th.
  EXPECT_TRUE(has(sheet, "<row r=\"2\""));
  EXPECT_FALSE(has(sheet, "<row r=\"3\""));
  const std::vector<int> widths = {9, 9, 10, 40, 40};
  for (std::size_t k = 0; k < widths.size(); ++k)
    EXPECT_TRUE(has(sheet, fmt::format("<col min=\"{0}\" max=\"{0}\" width=\"{1}.7109375\"", k + 1, widths[k])));
}

TEST(Spreadsheet, GoesInAndOutOfTheCommand) {
  const test::TemporaryFolder folder;
  const std::string made = (folder / "made.xlsx").string();
  const std::string out = (folder / "out.csv").string();
  ASSERT_EQ(test::run_command({"simulate", "y = a + b*x", "--at", "x=0..10 step 1", "--truth", "a=1", "--truth", "b=2",
                               "--u", "y=0.1", "--output", made})
                .code,
            0);
  const auto result =
      test::run_command({"fit", made, "line", "--x", "x", "--y", "y", "--table", out, "--decimal-comma"});
  EXPECT_EQ(result.code, 0) << result.error;
  EXPECT_TRUE(has(test::file_text(out), "\nb;"));
  EXPECT_TRUE(has(test::file_text(out), "2,0"));
  const auto sheets = test::run_command({"fit", made, "line", "--sheet", "Numbers", "--cells", "A1:B12"});
  EXPECT_EQ(sheets.code, 0) << sheets.error;
  struct Refused {
    std::vector<std::string> options;
    const char* part;
  };
  for (const Refused& r : {Refused{{"--output", (folder / "r.xlsx").string()}, "--table"},
                           Refused{{"--table", (folder / "r.txt").string()}, "end it with .csv"},
                           Refused{{"--decimal-comma"}, "add --format csv"},
                           Refused{{"--decimal-comma", "--table", (folder / "r.xlsx").string()}, "not CSV"},
                           Refused{{"--sheet", "Nix"}, "1 'Numbers'"}}) {
    std::vector<std::string> words = {"fit", made, "line", "--x", "x", "--y", "y"};
    words.insert(words.end(), r.options.begin(), r.options.end());
    const auto refused = test::run_command(words);
    EXPECT_EQ(refused.code, 2) << refused.error;
    EXPECT_TRUE(has(refused.error, r.part));
  }
  EXPECT_FALSE(std::filesystem::exists(folder / "r.xlsx"));
}

// A sheet and a block are chosen in a study and for the points of a prediction as they are for a fit; the report says
// the checksum of the very file.
TEST(Spreadsheet, IsChosenInStudiesAndForPredictions) {
  const test::TemporaryFolder folder;
  const auto put = [&folder](const char* name, const std::string& bytes) {
    std::ofstream(folder / name, std::ios::binary) << bytes;
    return (folder / name).string();
  };
  const std::string numbers =
      "<row><c t=\"inlineStr\"><is><t>x</t></is></c><c t=\"inlineStr\"><is><t>y</t></is></c></row>"
      "<row><c><v>1</v></c><c><v>2</v></c></row><row><c><v>2</v></c><c><v>4.5</v></c></row>"
      "<row><c><v>3</v></c><c><v>6</v></c></row>";
  put("book.xlsx", xlsx_with({{"Old", "<row><c><v>1</v></c></row>"}, {"New", numbers}}));
  const std::string runs = put("runs.csv", "x,y\n1,1\n2,2.5\n3,3\n\nx,y\n1,7\n2,9.5\n5,15\n");
  const std::string study = put("study.toml", R"([study]
title = "Runs"
[data.book]
file = "book.xlsx"
[data.runs]
file = "runs.csv"
[[task]]
name = "sheet"
command = "fit"
data = "book"
sheet = "New"
model = "line"
[[task]]
name = "block"
command = "fit"
data = "runs"
block = 2
model = "line"
)");
  const std::string results = (folder / "results").string();
  const auto ran = test::run_command({"run", study, "--into", results});
  ASSERT_EQ(ran.code, 0) << ran.error;
  const std::string report = test::file_text(folder / "results/report.html");
  for (const char* file : {"book.xlsx", "runs.csv"}) EXPECT_TRUE(has(report, checksum_of(folder / file))) << file;
  EXPECT_TRUE(has(report, "truecurve fit runs.csv line --block 2"));
  const std::string record = results + "/block.json";
  const auto at = [&](const char* block) {
    return test::run_command({"predict", record, "--at-file", runs, "--block", block, "--format", "csv"}).out;
  };
  EXPECT_TRUE(has(at("2"), "\n5,"));
  EXPECT_TRUE(has(at("1"), "\n3,"));
  EXPECT_EQ(test::run_command({"predict", record, "--at-file", runs}).code, 2);
  EXPECT_EQ(test::run_command({"predict", record, "--at", "x=1", "--sheet", "New"}).code, 2);
  // FIPS 180-4's example.
  EXPECT_EQ(checksum_of(put("abc", "abc")), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
  EXPECT_EQ(test::caught([&] { (void)checksum_of(folder / "none"); }).code(), ErrorCode::file_not_found);
}

}  // namespace
}  // namespace truecurve
