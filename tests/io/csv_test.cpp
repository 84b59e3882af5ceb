// Tables as laboratories write them.
#include <truecurve/io/csv.hpp>

#include "../support.hpp"

#include <cstdlib>
#include <fstream>

namespace truecurve {
namespace {

Table read(const std::string& text) {
  std::istringstream stream(text);
  return read_csv(stream, "lab.csv");
}

// The same small table in every dialect must read alike.
TEST(ReadCsv, UnderstandsTheDialectsOfLaboratories) {
  const std::vector<std::string> dialects = {"t (min),T (°C)\n0,980.5\n5,874.1\n10,781\n",
                                             "t (min);T (°C)\n0;980,5\n5;874,1\n10;781,0\n",
                                             "t (min)\tT (°C)\n0\t980,5\n5\t874,1\n10\t781\n",
                                             "t (min)\tT (°C)\n0\t980.5\n5\t874.1\n10\t781\n",
                                             "\xEF\xBB\xBFt / min,T / °C\r\n0,980.5\r\n5,874.1\r\n10,781\r\n\r\n",
                                             "# furnace 2\nt [min],T [°C]\n# pour\n0,980.5\n5,874.1\n\n10,781\n,\n,\n",
                                             "\"t (min)\",\"T (°C)\"\n\"0\",\"980.5\"\n 5 , 874.1 \n10,+7.81e2",
                                             "t (min);T (\xB0\x43);\n0;980,5;\n5;\xC2\xA0\x38\x37\x34,1;\n10;781;\n",
                                             "t (min),T (°C)\r0,980.5\r5,874.1\r10,781\r",
                                             "t (min);T (°C)\n0;980.5\n5;874.1\n10;781\n;\n;\n",
                                             "t (min)\tT (°C)\n0.\t980.5\n5\t874.1\n10.\t781.\n"};
  for (const std::string& text : dialects) {
    SCOPED_TRACE(text);
    const Table table = read(text);
    ASSERT_EQ(table.rows(), 3u);
    ASSERT_EQ(table.columns().size(), 2u);
    EXPECT_EQ(table.column("t").unit, "min");
    EXPECT_EQ(table.column("T").unit, "°C");
    EXPECT_EQ(table.column("t").numbers, (std::vector<double>{0, 5, 10}));
    EXPECT_EQ(table.column("T").numbers, (std::vector<double>{980.5, 874.1, 781}));
  }
}

// A group of three and a point at the end are a number, and words are none.
TEST(ReadCsv, TakesNumbersThatEndInAMark) {
  const Table table = read("x\ty\tz\n1\t1,234.\t3.\n2\t1,235.5\ta,b,\n3.\t12,345,678.\tmould.\n");
  EXPECT_EQ(table.column("x").numbers, (std::vector<double>{1, 2, 3}));
  EXPECT_EQ(table.column("y").numbers, (std::vector<double>{1234, 1235.5, 12345678}));
  EXPECT_EQ(*table.column("z").text_at(1), "a,b,");
  EXPECT_EQ(*table.column("z").text_at(2), "mould.");
}

TEST(ReadCsv, SplitsByBlanksAndGoesWithoutHeader) {
  const Table blanks = read("x   y\n1 2.5\n  2  3.5 \n");
  EXPECT_EQ(blanks.column("y").numbers, (std::vector<double>{2.5, 3.5}));
  const Table commas = read("1,5  2,5\n3,5  4,5\n");
  EXPECT_EQ(commas.column("c2").numbers, (std::vector<double>{2.5, 4.5}));
  EXPECT_EQ(read("7\n8\n9\n").column("c1").numbers, (std::vector<double>{7, 8, 9}));
}

// Quotation marks at the beginning of lines hold separators, whatever ends the lines.
TEST(ReadCsv, TellsTheSeparatorByWholeLines) {
  for (const std::string end : {"\n", "\r\n", "\r"}) {
    for (const auto& [separator, inside] : {std::pair{";", ","}, {",", ";"}, {"\t", ","}}) {
      const std::string text =
          fmt::format("\"a{1}b\"{0}\"c\"{2}\"1.5\"{0}\"2.5\"{2}\"3.5\"{0}\"4{1}5{1}6\"{2}", separator, inside, end);
      const Table table = read(text);
      ASSERT_EQ(table.columns().size(), 2u) << text;
      EXPECT_EQ(table.columns()[0].name, fmt::format("a{}b", inside)) << text;
      EXPECT_EQ(table.columns()[0].numbers, (std::vector<double>{1.5, 3.5})) << text;
    }
  }
}

TEST(ReadCsv, ReadsCellsPastedFromSpreadsheets) {
  const auto read_as = [](const std::string& text) {
    return read(fmt::format("x,y\n1,2\n{},3\n4,5\n", text)).column("x");
  };
  for (const auto& [text, number] : {std::pair{"\u22125.2", -5.2},
                                     {"1\u00a0234.5", 1234.5},
                                     {"\"1,234.5\"", 1234.5},
                                     {"1.5E+03", 1500},
                                     {".5", 0.5},
                                     {"3.", 3},
                                     {"+5.2", 5.2},
                                     {"0e-400", 0},
                                     {"0.00e9999", 0},
                                     {"1.5D+03", 1500},
                                     {"1.5d-1", 0.15},
                                     {"2D+1", 20},
                                     {"1.D2", 100},
                                     {"\"1,234,567.0\"", 1234567},
                                     {"\"123,456.5\"", 123456.5},
                                     {"+7", 7},
                                     {"1.5D1", 15}})
    EXPECT_EQ(read_as(text).numbers[1], number) << text;
  for (const char* text : {"NA", "n.d.", "-", "nan"}) EXPECT_TRUE(read_as(text).is_missing(1)) << text;
  const std::vector<const char*> words = {"<0.5", "5 %", "1.2.3", "+",     "+-5",  "--5",   "3D1",
                                          "D5",   "5.D", "5D+",   "15D1.", "1.5e", "1.5e+", "0x10"};
  const std::vector<const char*> grouped = {"1,23.5", "1,234,567",  "1,2345",     "12345,678.5", "1234,567.5",
                                            ",123.5", "1,234,56.5", "1,23,456.5", "1,234.567,8"};
  for (const char* text : words) EXPECT_NE(read_as(text).text_at(1), nullptr) << text;
  for (const char* text : grouped) EXPECT_NE(read_as(fmt::format("\"{}\"", text)).text_at(1), nullptr) << text;
}

// What no double holds is neither infinite nor zero.
TEST(ReadCsv, RefusesNumbersOutOfRange) {
  for (const char* text : {"1e999", "-1e999", "1e-400", "-0.01e-400", "1.5D+999"}) {
    const Error error = test::caught([&] { (void)read(fmt::format("x,y\n1,2\n{},3\n4,5\n", text)); });
    EXPECT_EQ(error.message(),
              fmt::format("column 'x': {} is outside the range of a double (about 1e-308 to 1e308)", text));
  }
}

TEST(ReadCsv, KeepsWordsLinesAndNamesThatEndInBrackets) {
  const Table table = read(
      "# c\nsample,u(y) (mg),ln(I),\"note, long\"\nB1,0.1,2,\"first "
      "\"\"x\"\"\"\nB2,0.2,3,\"two\nlines\"\nB3,0.3,4,z\n");
  EXPECT_TRUE(table.column("sample").is_text());
  EXPECT_EQ(table.column("u(y)").unit, "mg");
  EXPECT_TRUE(table.has_column("ln(I)"));
  EXPECT_EQ(*table.column("note, long").text_at(0), "first \"x\"");
  EXPECT_EQ(table.line(0), 3u);
  EXPECT_EQ(table.line(2), 6u);
  EXPECT_EQ(table.source().sha256.size(), 64u);
}

struct Refused {
  std::string text;
  ErrorCode code;
  std::size_t line;
  std::string value;
};

TEST(ReadCsv, RefusesWithPlaceValueAndRemedy) {
  for (const auto& [text, code, line, value] : {Refused{"x,y\n1,2\n3\n", ErrorCode::ragged_row, 3, "1"},
                                                {"x,y\n1,2\n3,4,5\n", ErrorCode::ragged_row, 3, "3"},
                                                {"#c\nx,x\n1,2\n", ErrorCode::duplicate_column, 2, "x"},
                                                {"x,y\n1,2\n1,1e999\n", ErrorCode::number_out_of_range, 3, "1e999"},
                                                {"x,y\n1e-999,2\n", ErrorCode::number_out_of_range, 2, "1e-999"},
                                                {"", ErrorCode::empty_file, 0, ""},
                                                {"# only\n\n", ErrorCode::empty_file, 0, ""},
                                                {"x,y\n", ErrorCode::empty_file, 0, ""},
                                                {std::string("x,y\n1,\0 2\n", 10), ErrorCode::binary_file, 0, "0"},
                                                {"\xFF\xFEx\0", ErrorCode::binary_file, 0, ""},
                                                {"x,y\n1,\"2\n3,4\n", ErrorCode::ragged_row, 2, "\""}}) {
    SCOPED_TRACE(text);
    try {
      (void)read(text);
      ADD_FAILURE() << "was read";
    } catch (const Error& error) {
      EXPECT_EQ(error.code(), code);
      EXPECT_EQ(error.place().file, "lab.csv");
      EXPECT_EQ(error.place().line, line);
      EXPECT_EQ(error.value(), value);
      EXPECT_FALSE(error.remedy().empty());
    }
  }
  EXPECT_THROW((void)read_csv(std::filesystem::path("no/such/file.csv")), Error);
  EXPECT_THROW((void)read_csv(std::filesystem::path("/")), Error);
}

TEST(ReadCsv, NamesTheNearestColumn) {
  try {
    (void)read("time,Temp\n1,2\n").column("temp");
    ADD_FAILURE();
  } catch (const Error& error) {
    EXPECT_EQ(error.code(), ErrorCode::unknown_column);
    EXPECT_TRUE(has(error.remedy(), "'Temp'"));
  }
}

std::size_t peak_memory_kb() {
  std::ifstream status("/proc/self/status");
  std::string line;
  while (std::getline(status, line)) {
    if (line.starts_with("VmHWM:")) return static_cast<std::size_t>(std::stoul(line.substr(6)));
  }
  return 0;
}

TEST(ReadCsv, TakesAMillionRowsWithinFourTimesTheFile) {
  const test::TemporaryFolder folder;
  {
    std::ofstream file(folder / "large.csv");
    file.imbue(std::locale::classic());
    file << "x,y,u(y)\n";
    for (int i = 0; i < 1'000'000; ++i) file << i * 0.001 << ',' << 3.5 + i * 0.0002 << ",0.125\n";
  }
  const auto file_kb = std::filesystem::file_size(folder / "large.csv") / 1024;
  const std::size_t before = peak_memory_kb();
  const Table table = read_csv(folder / "large.csv");
  EXPECT_EQ(table.rows(), 1'000'000u);
  EXPECT_EQ(table.column("x").numbers[123456], 123.456);
  if (!test::is_sanitized()) {
    EXPECT_LT(peak_memory_kb() - before, 4 * file_kb);
  }
}

// Lines longer than what is read at once, in every form, and what stands behind them.
TEST(ReadCsv, TakesLinesOfAnyLength) {
  const std::string text(300'000, 'a');
  for (const char* end : {"\n", "\r\n"}) {
    const Table cell = read(fmt::format("x,y{1}1,{0}{1}2,3{1}", text, end));
    ASSERT_EQ(cell.rows(), 2u);
    EXPECT_EQ(*cell.column("y").text_at(0), text);
    EXPECT_EQ(cell.column("y").numbers[1], 3);
    EXPECT_EQ(cell.line(1), 3u);
    const Table quoted = read(fmt::format("x,y{1}1,\"{0}{1}{0}\"{1}2,3{1}", text, end));
    EXPECT_EQ(*quoted.column("y").text_at(0), text + end + text);
    EXPECT_EQ(quoted.line(1), 4u);
    const Table remark = read(fmt::format("x,y{1}#{0}{1}2,3", text, end));
    EXPECT_EQ(remark.column("y").numbers[0], 3);
    // The format is that of whole lines.
    std::string header = "c0";
    std::string row = "0,5";
    for (int i = 1; i < 20'000; ++i) {
      header += fmt::format(";c{}", i);
      row += fmt::format(";{},5", i);
    }
    const Table wide = read(header + end + row + end);
    ASSERT_EQ(wide.columns().size(), 20'000u);
    EXPECT_EQ(wide.column("c19999").numbers[0], 19999.5);
    EXPECT_EQ(wide.source().remark, "semicolon-separated, decimal comma");
    const Table named = read(fmt::format("{0};y{1}1,5;2{1}3;4{1}", text, end));
    ASSERT_EQ(named.columns().size(), 2u);
    EXPECT_EQ(named.columns()[0].numbers, (std::vector<double>{1.5, 3}));
  }
}

// The halves of a line's end may be read apart: at every place around the end of what is read at once, each line counts
// once and no line is empty.
TEST(ReadCsv, KeepsTheHalvesOfALineEndTogether) {
  for (std::size_t before = 65'536 - 24; before < 65'536 + 4; ++before) {
    std::string text = "x,y\r\n1,2\r\n#";
    text += std::string(before - text.size(), '-') + "\r\n2,3\r\n3,4\r\n";
    while (text.size() < 70'000) text += "4,5\r\n";
    const Table table = read(text);
    ASSERT_EQ(table.line(1), 4u) << before;
    ASSERT_EQ(table.line(2), 5u) << before;
    ASSERT_EQ(table.column("y").numbers[2], 4) << before;
  }
}

// A letter of several bytes may be read in two parts, too: at every place around the end of what is read at once it
// stays the letter it is.
TEST(ReadCsv, KeepsTheBytesOfALetterTogether) {
  for (std::size_t before = 65'536 - 4; before < 65'536 + 2; ++before) {
    std::string text = "bell,T (°C)\n";
    text += std::string(before - text.size(), 'o') + "°µ,1\n";
    const std::string name = text.substr(text.find('\n') + 1, text.size() - text.find('\n') - 4);
    while (text.size() < 70'000) text += "rim,2\n";
    EXPECT_TRUE(read(text).column("bell").texts[0].text == name) << before;
  }
}

// Tables as instruments and people write them: what stands around the numbers.
TEST(ReadCsv, FindsTheTableAmongWhatInstrumentsWrite) {
  const std::vector<std::string> files = {"Cooling of casting 7\n\nt (min),T (°C)\n0,980.5\n5,874.1\n",
                                          "Cooling of casting 7;\n;\nt (min);T (°C)\n0;980,5\n5;874,1\n",
                                          "Cooling of casting 7,\r\nt,T\r\nmin,°C\r\n0,980.5\r\n5,874.1\r\n",
                                          "Furnace log; operator B\nProbe: 3\nt (min);T (°C)\n0;980,5\n5;874,1\n",
                                          "sep=;\nt (min);T (°C)\n0;980,5\n5;874,1\n",
                                          "\"sep=,\"\r\nt (min),T (°C)\r\n0,980.5\r\n5,874.1\r\n",
                                          "t,T\nmin,°C\n0,980.5\n5,874.1\n",
                                          "t\tT\n(min)\t[°C]\n0\t980.5\n5\t874.1\n",
                                          "title of it\nt;T\nmin;degC\n0;980,5\n5;874,1\n",
                                          "# t (min)  T (°C)\n0 980.5\n5 874.1\n",
                                          "% t (min), T (°C)\n% second remark of one cell\n",
                                          "# furnace 2\n# t (min);T (°C)\n0;980,5\n5;874,1\n",
                                          "  # furnace 2\nt (min),T (°C)\n0,980.5\n\t% pour\n5,874.1\n",
                                          "| t (min) | T (°C) |\n|---|---:|\n| 0 | 980.5 |\n| 5 | 874.1 |\n",
                                          "t (min)|T (°C)\n0|980.5\n5|874.1\n",
                                          "t, min;T, °C\n0;980,5\n5;874,1\n",
                                          "t (min),T (°C)\n0.0D+00,0.9805D+03\n5,874.1\n",
                                          "t (min);T (°C)\n0;0'980.5\n5;874.1\n"};
  for (const std::string& text : files) {
    if (text.find("second remark") != std::string::npos) continue;
    SCOPED_TRACE(text);
    const Table table = read(text);
    ASSERT_EQ(table.rows(), 2u);
    ASSERT_EQ(table.columns().size(), 2u);
    EXPECT_EQ(table.column("t").unit, "min");
    EXPECT_EQ(*unit_factor_of_differences(table.column("T").unit, "°C"), 1);
    EXPECT_EQ(table.column("t").numbers, (std::vector<double>{0, 5}));
    if (text.find("0'980") == std::string::npos)
      EXPECT_EQ(table.column("T").numbers, (std::vector<double>{980.5, 874.1}));
  }
  // The separator that is declared holds, whatever else stands in every line.
  EXPECT_EQ(read("sep=;\nx,y\n1,2\n3,4\n").columns().size(), 1u);
  EXPECT_EQ(read("x,y\n1,2\n3,4\n").columns().size(), 2u);
  // Titles above numbers that have no names.
  const Table nameless = read("Bells of the week\nby hand\n1,2\n3,4\n5,6\n");
  EXPECT_EQ(nameless.column("c1").numbers, (std::vector<double>{1, 3, 5}));
  EXPECT_EQ(nameless.column("c2").numbers, (std::vector<double>{2, 4, 6}));
  EXPECT_EQ(read("m\n12'345.5\n1'234'567\n").column("m").numbers, (std::vector<double>{12345.5, 1234567}));
}

// What was found is said, with its line.
// Titles, names, units and remarks above the numbers, and what is none of them.
TEST(ReadCsv, TellsTitlesNamesAndUnitsApart) {
  struct Case {
    const char* text;
    std::size_t skipped, rows;
    std::vector<std::string> columns;
  };
  for (const Case& c : {
           Case{"1;2;3\n1;2;3\n1;2;3\n1;2;3\n1;2;3\nx,y\n3,4\n5,6\n", 5, 2, {"x", "y"}},
           {"sep=; \nx;y\n1,5;2\n3;4\n", 0, 2, {"x", "y"}},
           {"x,y,3\n1,2,3\n4,5,6\n", 0, 2, {"x", "y", "3"}},
           {"Title one\nx,y\n1,2\n3,4\n\nsee, the, notes\n", 0, 2, {"x", "y"}},
           {"5\nx,y\n1,2\n3,4\n5,6\n", 0, 3, {"x", "y"}},
           {"Title\n5,a\n1,2\n3,4\n", 0, 2, {"5", "a"}},
           {"Run,,\n,,\nx,y,z\n1,2,3\n3,4,5\n", 0, 2, {"x", "y", "z"}},
           {"Run,a,b\nx,y,z\n1,2,3\n3,4,5\n", 0, 3, {"Run", "a", "b"}},
           {"Probe; 3; a\nx;y\n1;2\n3;4\n5;6\n", 0, 3, {"x", "y"}},
           // Units where a column of numbers has one that is known, in brackets any; one row is enough for them.
           {"t,T\nmin,\n0,980.5\n5,874.1\n", 0, 2, {"t (min)", "T"}},
           {"t,T\n-,-\n0,1\n1,2\n", 0, 3, {"t", "T"}},
           {"t,T\nmin,K\n1,2\n", 0, 1, {"t (min)", "T (K)"}},
           {"t,h\nmin,(turns)\n1,2\n3,4\n", 0, 2, {"t (min)", "h (turns)"}},
           {"t,h\nmin,turns\n1,2\n3,4\n", 0, 3, {"t", "h"}},
           {"t,T,n\nmin,K,a\n0,980.5,b\n5,874.1,c\n", 0, 2, {"t (min)", "T (K)", "n"}},
           // A column is one of numbers that holds more of them than words.
           {"t,n\nmin,abc\n1,2\n2,3\n3,b\n4,c\n", 0, 4, {"t (min)", "n (abc)"}},
           {"t,n\nmin,abc\n1,2\n2,3\n3,4\n4,c\n", 0, 5, {"t", "n"}},
           // Names in a remark, one for each column.
           {"#x y\n0 1\n1 2\n", 0, 2, {"x", "y"}},
           {"# x y z\n0 1\n1 2\n", 0, 2, {"c1", "c2"}},
           {"# x\n0 1\n1 2\n", 0, 2, {"c1", "c2"}},
           {"# 5 y\n0 1\n1 2\n", 0, 2, {"c1", "c2"}},
       }) {
    SCOPED_TRACE(c.text);
    std::istringstream stream(c.text);
    const Table table = read_csv(stream, "lab.csv", {.skipped_lines = c.skipped});
    EXPECT_EQ(table.rows(), c.rows);
    std::vector<std::string> columns;
    for (const Column& column : table.columns())
      columns.push_back(column.unit.empty() ? column.name : fmt::format("{} ({})", column.name, column.unit));
    EXPECT_EQ(columns, c.columns);
  }
}

TEST(ReadCsv, SaysWhatItFound) {
  const auto said = [](const std::string& text) {
    std::string all;
    const Table table = read(text);
    for (const std::string& sentence : table.source().said) all += sentence + "\n";
    return all;
  };
  EXPECT_EQ(said("x,y\n1,2\n3,4\n"), "");
  EXPECT_TRUE(has(said("Cooling\n\nt,T\n0,1\n1,2\n"), "the table begins in line 3"));
  EXPECT_TRUE(has(said("t,T\nmin,K\n0,1\n1,2\n"), "line 2 was read as the units"));
  // A column of words needs no unit, a number among them or not.
  EXPECT_TRUE(
      has(said("sample,T,note\ncode,K,text\nA,20.1,ok\nB,20.5,7\nC,21.0,ok\nD,21.4,ok\n"), "line 2 was read as"));
  EXPECT_TRUE(has(said("# x y\n0 1\n1 2\n"), "named by the remark in line 1"));
  EXPECT_TRUE(has(said("x,y\n1,2.1±0.1\n2,3.0±0.2\n"), "the column 'u(y)'"));
}

// A line that only looks like a title, names or units is none: nothing is thrown away.
TEST(ReadCsv, KeepsWhatOnlyLooksLikeATitleOrUnits) {
  EXPECT_EQ(test::caught([] { (void)read("a,b\n1,2,3\n4,5,6\n"); }).code(), ErrorCode::ragged_row);
  EXPECT_EQ(test::caught([] { (void)read("1,2,3\na,b\n1,2\n3,4\n"); }).code(), ErrorCode::ragged_row);
  EXPECT_EQ(read("x,y\nlow,high\n1,2\n3,4\n").rows(), 3u);
  EXPECT_EQ(read("x,y\nNA,n.d.\n1,2\n3,4\n").rows(), 3u);
  EXPECT_EQ(read("sample,,y\ngate,,\nrim,1,2\ngate,3,4\n").columns()[0].name, "sample");
  EXPECT_EQ(read("x,\n1,2\n3,4\n").columns()[0].name, "x");
  EXPECT_EQ(read("x (min),y (K)\nmin,K\n1,2\n3,4\n").rows(), 3u);
  EXPECT_EQ(read("x,y\n5,K\n1,2\n3,4\n").rows(), 3u);
  // Remarks that only look like labels.
  for (const char* remark : {"##=3", "## bell = gate", "##bell? = gate", "##bell"})
    EXPECT_EQ(read(std::string(remark) + "\nx,y\n1,2\n3,4\n").rows(), 2u) << remark;
  EXPECT_EQ(read("state\nsound\ncracked\n").rows(), 2u);
  EXPECT_EQ(read("sample,c\n3D1,4\n3D2,5\n").column("sample").texts.size(), 2u);
  EXPECT_EQ(read("tin, melt 2;y\n1;2\n3;4\n").columns()[0].name, "tin, melt 2");
  // After a word a letter may be the quantity's symbol; a header between quotes may take two lines.
  EXPECT_EQ(read("Mass, m;Height, h\n1;2\n3;4\n").columns()[0].unit, "");
  EXPECT_EQ(read("Mass, kg;T, K\n1;2\n3;4\n").columns()[0].unit, "kg");
  EXPECT_EQ(read("Mass, kg;T, K\n1;2\n3;4\n").columns()[1].unit, "K");
  // Units in a line of their own, in brackets or with brackets in them.
  for (const auto& [cell, unit] : {std::pair{"(m)", "m"},
                                   {"[m]", "m"},
                                   {"( m )", "m"},
                                   {"(m/s)^2", "(m/s)^2"},
                                   {"(m)/(s)", "(m)/(s)"},
                                   {"(m", "(m"}})
    EXPECT_EQ(read(std::string("t,h\nmin,") + cell + "\n1,2\n3,4\n").columns()[1].unit, unit);
  const Table quoted = read("\"t\n(min)\",T\n0,1\n1,2\n2,4\n");
  EXPECT_EQ(quoted.columns()[0].unit, "min");
  EXPECT_TRUE(quoted.source().said.empty());
}

// Blocks with names of their own are tables of their own, wherever a chunk of bytes ends; a block of numbers or of
// words alone is none.
// A bracket that nothing stands before, or that nothing opens, is of the name; between two of them a unit may be none.
TEST(ReadCsv, TakesUnitsFromBracketsBehindNames) {
  const Table table = read("(s),y),z (),\" v (mm) \",w\n1,2,3,4,5\n");
  const std::vector<std::pair<std::string, std::string>> headings = {
      {"(s)", ""}, {"y)", ""}, {"z", ""}, {"v", "mm"}, {"w", ""}};
  for (std::size_t k = 0; k < headings.size(); ++k) {
    EXPECT_EQ(table.columns()[k].name, headings[k].first);
    EXPECT_EQ(table.columns()[k].unit, headings[k].second);
  }
  const Table units = read("x,y,z,w\n(),(mm),[N m],s\n1,2,3,4\n2,3,4,5\n");
  const std::vector<std::string> wanted = {"", "mm", "N m", "s"};
  for (std::size_t k = 0; k < wanted.size(); ++k) EXPECT_EQ(units.columns()[k].unit, wanted[k]) << k;
}

// Bars frame each row, or part its cells alone.
TEST(ReadCsv, TakesTheFrameOfBarsAway) {
  for (const char* text :
       {"| x | y |\n|---|---|\n| 1 | 2 |\n| 3 | 4 |\n", "| x | y\n| 1 | 2\n| 3 | 4\n", "x | y\n1 | 2\n3 | 4\n"}) {
    const Table table = read(text);
    ASSERT_EQ(table.columns().size(), 2u) << text;
    EXPECT_EQ(table.column("x").numbers, (std::vector<double>{1, 3})) << text;
    EXPECT_EQ(table.column("y").numbers, (std::vector<double>{2, 4})) << text;
  }
}

TEST(ReadCsv, TellsTablesBeneathEachOtherApart) {
  const auto read_block = [](const std::string& text, std::size_t block) {
    std::istringstream stream(text);
    return read_csv(stream, "lab.csv", {.block = block});
  };
  std::string many = "t;y\n";
  for (int i = 0; i < 9000; ++i) many += fmt::format("{};{},5\n", i, i % 7);
  const std::string second = "tau (s);v\n1,5;2\n2,5;3\n";
  for (const std::string& first : {std::string("t;y\n1;2,5\n\n2;3,5\n"), many}) {
    for (const std::string between : {"\n", ";\n\n", "\n# run 2\n", "\r\n \r\n", "\nRun 2\n", "\nRun 2;\n\n"}) {
      SCOPED_TRACE(between);
      const std::string both = first + between + second + "\nsee the notes;\n";
      const Table table = read_block(both, 2);
      EXPECT_EQ(table.column("tau").numbers, (std::vector<double>{1.5, 2.5}));
      EXPECT_EQ(table.column("tau").unit, "s");
      EXPECT_GE(read_block(both, 1).rows(), 2u);
      EXPECT_EQ(read_block(both, 1).column("y").numbers[1], first == many ? 1.5 : 3.5);
      for (const std::size_t block : {0u, 3u}) {
        const Error error = test::caught([&] { (void)read_block(both, block); });
        EXPECT_EQ(error.code(), ErrorCode::bad_argument);
        EXPECT_TRUE(has(text_of(error.details()), "1 from line 1 on (t;y), 2 from line"));
      }
    }
  }
  const Table units = read_block("x,y\n1,2\n\nt,v\ns,mm\n1,2\n3,4\n", 2);
  EXPECT_EQ(units.column("t").unit, "s");
  EXPECT_EQ(units.source().said[0], "table 2 was read, of 2: 1 from line 1 on (x,y), 2 from line 4 on (t,v)");
  EXPECT_EQ(units.source().said[1], "line 5 was read as the units of the columns");
  const Table footer = read("x,y\n1,2\n2,3\n\nmean of all\n");
  EXPECT_EQ(footer.rows(), 2u);
  EXPECT_EQ(footer.source().said, (std::vector<std::string>{"the text from line 5 on was not read"}));
  EXPECT_EQ(read("1 2\n2 3\n\n\n3 4\n").rows(), 3u);
  EXPECT_EQ(read("s,x\na,1\n\nb,NA\n\nc,3\n").rows(), 3u);
  EXPECT_EQ(read("s,x,y\na,1,2\n\nb,,\n\nc,3,4\n").rows(), 3u);  // a row of a sample, not a title
  const Table narrower = read_block("x,y,z\n1,2,3\n,,\nt,v,\n1,2,\n3,4,\n", 2);
  EXPECT_EQ(narrower.columns().size(), 2u);
  EXPECT_EQ(narrower.column("v").numbers, (std::vector<double>{2, 4}));
  EXPECT_EQ(test::caught([&] { (void)read_block("x,y\n1,2\n", 2); }).remedy(), "it holds one table: omit the choice");
  // Where rows begin with words, several words or one that stands alone are names or a title all the same.
  for (const char* title : {"", "Run 2\n"}) {
    const std::string bells = fmt::format("bell,f\ngate,440\nrim,441\n\n{}bell,T\ngate,20\nrim,21\n", title);
    EXPECT_EQ(read_block(bells, 2).column("T").numbers, (std::vector<double>{20, 21})) << title;
  }
  // Twenty are listed, by as much of their names as is read at a glance.
  for (const int tables : {20, 21}) {
    std::string lines;
    for (int i = 1; i <= tables; ++i) lines += fmt::format("x,y{}\n1,2\n2,3\n\n", std::string(i == 1 ? 38 : 37, 'y'));
    const std::string message = test::caught([&] { (void)read_block(lines, 0); }).message();
    EXPECT_TRUE(message.starts_with(fmt::format("the file holds {} tables: 1 from line 1 on (x,yyy", tables)));
    EXPECT_FALSE(has(message, "(x," + std::string(39, 'y')));
    EXPECT_TRUE(has(message, "2 from line 5 on (x," + std::string(37, 'y') + "y)"));
    EXPECT_TRUE(has(message, "20 from line 77 on"));
    EXPECT_FALSE(has(message, "21 from line"));
    EXPECT_EQ(message.ends_with(" and 1 more"), tables == 21);
  }
}

TEST(ReadCsv, SkipsSoManyLines) {
  std::istringstream stream("1,2\nx,y\n3,4\n5,6\n");
  const Table table = read_csv(stream, "lab.csv", {.skipped_lines = 1});
  EXPECT_EQ(table.column("x").numbers, (std::vector<double>{3, 5}));
  EXPECT_EQ(table.line(0), 3u);
  // What is skipped is not looked at, though it reads as names.
  std::istringstream named("p,q\nx,y\n3,4\n5,6\n");
  EXPECT_EQ(read_csv(named, "lab.csv", {.skipped_lines = 1}).columns()[0].name, "x");
}

TEST(ReadCsv, PartsValuesAndUncertainties) {
  const Table table =
      read("x,T (°C),k\n1,2.1±0.1,1.230(45)e-9\n2,3.0 +/- 0.2,2(1)\n3,NA,22.7(1.3)\n4,-4±1e-1,0.5(5)\n");
  EXPECT_EQ(table.column("T").numbers[1], 3.0);
  EXPECT_EQ(table.column("T").numbers[3], -4);
  EXPECT_TRUE(std::isnan(table.column("u(T)").numbers[2]));
  EXPECT_EQ(table.column("u(T)").numbers[3], 0.1);
  EXPECT_EQ(table.column("u(T)").unit, "°C");
  EXPECT_NEAR(table.column("k").numbers[0], 1.23e-9, 1e-24);
  EXPECT_NEAR(table.column("u(k)").numbers[0], 0.045e-9, 1e-24);
  EXPECT_EQ(read("y\n2.13 (15)\n3.20 (11)\n").column("u(y)").numbers, (std::vector<double>{0.15, 0.11}));
  EXPECT_EQ(table.column("u(k)").numbers[1], 1);
  EXPECT_EQ(table.column("u(k)").numbers[2], 1.3);
  EXPECT_EQ(table.column("u(k)").numbers[3], 0.5);
  // One entry of another form, or a column of that name already, and all stay as they are.
  EXPECT_TRUE(read("x,y\n1,2.1±0.1\n2,about 3\n").column("y").is_text());
  EXPECT_TRUE(read("y,u(y)\n2.1±0.1,3\n2.2±0.1,4\n").column("y").is_text());
  EXPECT_TRUE(read("sample,c\ngate (2),1\nrim (3),2\n").column("sample").is_text());
}

// The same table, compressed and in other encodings; the checksum is that of the file.
TEST(ReadCsv, UndoesGzipAndUtf16) {
  const std::string text = "t (min),T (°C)\n0,980.5\n5,874.1\n10,781\n";
  const auto utf16 = [&text](bool low_first) {
    std::string bytes = low_first ? "\xFF\xFE" : "\xFE\xFF";
    for (std::size_t i = 0; i < text.size(); ++i) {
      char32_t unit = static_cast<unsigned char>(text[i]);
      if (unit == 0xC2) unit = static_cast<unsigned char>(text[++i]);
      const char low = static_cast<char>(unit & 0xFF);
      const char high = static_cast<char>(unit >> 8);
      bytes += low_first ? std::string{low, high} : std::string{high, low};
    }
    return bytes;
  };
  const test::TemporaryFolder folder;
  std::ofstream(folder / "t.csv", std::ios::binary) << text;
  ASSERT_EQ(std::system(fmt::format("gzip -k {}", (folder / "t.csv").string()).c_str()), 0);
  // Two of them, one behind the other, are one text.
  std::ofstream(folder / "more.csv", std::ios::binary) << "15,690.2\n";
  ASSERT_EQ(std::system(fmt::format("gzip -k {}", (folder / "more.csv").string()).c_str()), 0);
  const std::string two = test::file_text(folder / "t.csv.gz") + test::file_text(folder / "more.csv.gz");
  EXPECT_EQ(read(two).column("T").numbers, (std::vector<double>{980.5, 874.1, 781, 690.2}));
  EXPECT_EQ(test::caught([&two] { (void)read(two + "\x1f\x8b\x08 no more"); }).code(), ErrorCode::binary_file);
  const Table plain = read(text);
  for (const std::string& bytes : {utf16(true), utf16(false), test::file_text(folder / "t.csv.gz")}) {
    const Table table = read(bytes);
    EXPECT_EQ(table.column("T").numbers, plain.column("T").numbers);
    EXPECT_EQ(table.column("T").unit, "°C");
    EXPECT_NE(table.source().sha256, plain.source().sha256);
  }
  const std::string compressed = test::file_text(folder / "t.csv.gz");
  EXPECT_TRUE(has(std::string(test::caught([&] { (void)read(compressed.substr(0, compressed.size() - 6)); }).what()),
                  "ends too early"));
  std::string damaged = compressed;
  damaged[compressed.size() / 2] = static_cast<char>(damaged[compressed.size() / 2] ^ 0x55);
  EXPECT_EQ(test::caught([&] { (void)read(damaged); }).code(), ErrorCode::binary_file);
  // The halves of a character may be read apart, and in either order of bytes.
  for (const bool low_first : {true, false}) {
    for (const std::size_t before : {32'760U, 32'763U, 32'764U, 32'765U, 32'766U, 32'767U}) {
      std::u16string wide = u"\uFEFFbell,T (\u03A9)\n";
      wide += std::u16string(before - wide.size(), u'o') + u"\U00010000\U0001F7FF,1\n";
      for (int i = 0; i < 100; ++i) wide += u"rim,2\n";
      std::string bytes;
      for (const char16_t half : wide) {
        const char low = static_cast<char>(half & 0xFF);
        const char high = static_cast<char>(half >> 8);
        bytes += low_first ? std::string{low, high} : std::string{high, low};
      }
      const Table table = read(bytes);
      EXPECT_EQ(table.columns()[1].unit, "\u03A9");
      EXPECT_TRUE(table.columns()[0].texts[0].text.ends_with("oo\U00010000\U0001F7FF")) << before;
      EXPECT_EQ(table.rows(), 101U);
    }
  }
  // Beyond 65,536 in two halves, a half alone as the mark of what can't be read, and an odd byte.
  const Table emoji = read(std::string("\xFF\xFEx\0,\0\x3D\xD8\x14\xDD\n\0001\0,\0002\0\n\0", 20));
  EXPECT_EQ(emoji.columns()[1].name, "\U0001F514");
  EXPECT_EQ(read(std::string("\xFF\xFEx\0,\0\x3D\xD8\n\0001\0,\0002\0\n\0", 18)).columns()[1].name, "\uFFFD");
  EXPECT_EQ(read(std::string("\xFF\xFEx\0,\0\x14\xDD\n\0001\0,\0002\0\n\0", 18)).columns()[1].name, "\uFFFD");
  EXPECT_TRUE(has(test::caught([] { (void)read(std::string("\xFF\xFEx\0,", 5)); }).what(), "within a character"));
}

TEST(ReadCsv, NamesTheKindOfWhatIsNoTable) {
  const auto message = [](const std::string& text) { return test::caught([&text] { (void)read(text); }).message(); };
  EXPECT_EQ(message(""), "the file is empty");
  EXPECT_EQ(message("# x, y\n\n"), "the file holds no table, only blank or comment lines");
  const std::string label = "##OWNER= " + std::string(41, 'n');
  const Error labelled = test::caught([&label] { (void)read("a title\n\n" + label + "\n1 2\n"); });
  EXPECT_EQ(labelled.place().line, 3U);
  EXPECT_EQ(labelled.value(), label.substr(0, 40));
  // Byte by byte from 1, however much was read before.
  for (const std::size_t before : {10U, 65'535U, 65'536U, 200'000U}) {
    std::string text = "x,y\n";
    while (text.size() < before) text += "1,2\n";
    text.resize(before);
    EXPECT_EQ(message(text + '\0' + "1,2\n"), fmt::format("this is not a text file: byte {} is zero", before + 1));
  }
  const std::pair<std::string, const char*> files[] = {{"\x89HDF\r\n\x1A\n...", "HDF5"},
                                                       {"%PDF-1.7 ...", "PDF document"},
                                                       {"SQLite format 3", "SQLite"},
                                                       {"\x89PNG\r\n", "PNG"},
                                                       {"##TITLE= peak\n##JCAMP-DX= 4.24\n1 2\n", "JCAMP-DX"}};
  for (const auto& [bytes, kind] : files) {
    const std::string& text = bytes;
    const Error error = test::caught([&text] { (void)read(text); });
    EXPECT_EQ(error.code(), ErrorCode::unsupported_file) << kind;
    EXPECT_TRUE(has(error.message(), kind));
    EXPECT_EQ(error.place().line, kind == std::string("JCAMP-DX") ? 1U : 0U);
    EXPECT_FALSE(error.remedy().empty());
  }
}

// Well-formed sequences of UTF-8 stay (The Unicode Standard, table 3-7); of all else each byte is a Latin-1 letter.
TEST(ReadCsv, KnowsWellFormedUtf8) {
  const auto kept = [](const std::string& bytes) {
    const Table table = read("x,y\n1,a" + bytes + "b\n2,ok\n");
    return *table.column("y").text_at(0);
  };
  for (const char* bytes : {"\xC2\xA0", "\xDF\xBF", "\xE0\xA0\x80", "\xE2\x82\xAC", "\xED\x9F\xBF", "\xEE\x80\x80",
                            "\xEF\xBF\xBD", "\xF0\x90\x80\x80", "\xF3\xBF\xBF\xBF", "\xF4\x8F\xBF\xBF"})
    EXPECT_EQ(kept(bytes), "a" + std::string(bytes) + "b");
  for (const char* bytes :
       {"\xA0", "\xC0\xA0", "\xC1\xBF", "\xC2", "\xE2\xA2", "\xE0\xA0", "\xE0\x9F\xBF", "\xED\xA0\xA0", "\xE2\xA2\x41",
        "\xF0\x8F\xBF\xBF", "\xF0\xA0\xA0", "\xF4\xA0\xA0\xA0", "\xF4\x90\xA0\xA0", "\xF5\xA0\xA0\xA0", "\xFF"}) {
    std::string latin = "a";
    for (const char c : std::string(bytes)) {
      const auto byte = static_cast<unsigned char>(c);
      if (byte < 0x80) {
        latin += c;
      } else {
        latin += static_cast<char>(0xC0 | byte >> 6);
        latin += static_cast<char>(0x80 | (byte & 0x3F));
      }
    }
    EXPECT_EQ(kept(bytes), latin + "b") << static_cast<int>(static_cast<unsigned char>(bytes[0]));
  }
}

}  // namespace
}  // namespace truecurve
