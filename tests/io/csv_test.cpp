// Tables as laboratories write them.
#include <truecurve/base/error.hpp>
#include <truecurve/io/csv.hpp>

#include "../support.hpp"

#include <cmath>
#include <fstream>
#include <sstream>

#include <fmt/format.h>

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
                                             "t (min);T (°C)\n0;980.5\n5;874.1\n10;781\n;\n;\n"};
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

TEST(ReadCsv, SplitsByBlanksAndGoesWithoutHeader) {
  const Table blanks = read("x   y\n1 2.5\n  2  3.5 \n");
  EXPECT_EQ(blanks.column("y").numbers, (std::vector<double>{2.5, 3.5}));
  const Table commas = read("1,5  2,5\n3,5  4,5\n");
  EXPECT_EQ(commas.column("c2").numbers, (std::vector<double>{2.5, 4.5}));
  EXPECT_EQ(read("7\n8\n9\n").column("c1").numbers, (std::vector<double>{7, 8, 9}));
}

struct Cell {
  const char* text;
  double number;  // NaN: text, infinity: missing
};

TEST(ReadCsv, ReadsCellsPastedFromSpreadsheets) {
  for (const auto& [text, number] : {Cell{"\xE2\x88\x92"
                                          "5.2",
                                          -5.2},
                                     {"1\xC2\xA0"
                                      "234.5",
                                      1234.5},
                                     {"\"1,234.5\"", 1234.5},
                                     {"1.5E+03", 1500},
                                     {".5", 0.5},
                                     {"3.", 3},
                                     {"NA", infinity},
                                     {"n.d.", infinity},
                                     {"-", infinity},
                                     {"nan", infinity},
                                     {"<0.5", not_a_number},
                                     {"5 %", not_a_number},
                                     {"\"1,23.5\"", not_a_number},
                                     {"1.2.3", not_a_number},
                                     {"0x10", not_a_number}}) {
    SCOPED_TRACE(text);
    const Table table = read(fmt::format("x,y\n1,2\n{},3\n4,5\n", text));
    const Column& x = table.column("x");
    if (std::isinf(number)) {
      EXPECT_TRUE(x.is_missing(1));
    } else if (std::isnan(number)) {
      EXPECT_NE(x.text_at(1), nullptr);
    } else {
      EXPECT_EQ(x.numbers[1], number);
    }
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
    EXPECT_NE(error.remedy().find("'Temp'"), std::string::npos);
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
  }
}

}  // namespace
}  // namespace truecurve
