// What is typed first by someone with a table: headers as names, columns unsaid, x and y of an equation.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <fstream>

namespace truecurve {
namespace {

using test::run_command;
using test::run_typed;
using test::TemporaryFolder;

const char* const cores = "Drying time (min),Core strength (MPa)\n1,2.1\n2,3.0\n3,4.2\n5,6.1\n8,9.2\n";
const char* const cooling = "t,T\n0,980\n5,874\n10,781\n15,702\n20,632\n";

struct Typed {
  std::string line;
  const char* table;
  int code;
  std::vector<std::string> said;  // on either stream
};

// Lines are broken anywhere.
std::string on_one_line(const std::string& text) {
  std::istringstream words(text);
  std::string line;
  for (std::string word; words >> word;) line += (line.empty() ? "" : " ") + word;
  return line;
}

void expect_said(const Typed& typed) {
  const auto result = run_typed(typed.line, typed.table);
  EXPECT_EQ(result.code, typed.code) << typed.line << "\n" << result.error;
  const std::string said = on_one_line(result.out + result.error);
  for (const std::string& expected : typed.said)
    EXPECT_TRUE(has(said, on_one_line(expected))) << typed.line << "\nlacks: " << expected;
}

TEST(Columns, AreNamedByTheirHeaders) {
  const std::vector<Typed> all = {
      {"fit - line --x 'Drying time' --y 'Core strength'",
       cores,
       0,
       {"'Core strength' = a + b*'Drying time'", "1.017(14) MPa/min"}},
      {"fit - line --x 'Drying time (min)' --y 'Core strength (MPa)'",
       cores,
       0,
       {"'Core strength' = a + b*'Drying time'"}},
      {"fit - 'Core strength = a + b*Drying time'", cores, 0, {"all 5 rows"}},
      {"fit - \"'Core strength' = a + b*'Drying time'\" --u 'Core strength=0.05'", cores, 0, {"0.05 for every row"}},
      {"fit - \"'Core strength' = a + b*'Drying time'\" --u \"'Core strength' = 2%\"",
       cores,
       0,
       {"2 % of the fitted value"}},
      {"fit - line --x 'Drying time' --y 'Core strength' --leave-out 'Drying time > 5'",
       cores,
       0,
       {"4 of 5 rows", "Drying time > 5"}},
      {"fit - line --x 'Drying time' --y 'Core strength' --leave-out 2..3", cores, 0, {"3 of 5 rows"}},
      {"fit - line --x 'Drying time' --y 'Core strength' --leave-out 3..2", cores, 2, {"is not a range of rows"}},
      {"compare - line 'Core strength = a*Drying time^p; start p=1' --x 'Drying time' --y 'Core strength' --hold-out "
       "'Drying time > 7'",
       cores,
       0,
       {"Hold-out"}},
      {"look - --x 'Drying time' --y 'Core strength'", cores, 0, {"column values range", "Core strength 5 2.1 to 9.2"}},
      {"calibrate - --x 'Drying time' --y 'Core strength'", cores, 0, {"'Core strength' = a + b*'Drying time'"}},
      // slips
      {"fit - \"'Core strength' = a + b*'Drying tme'\"", cores, 2, {"did you mean 'Drying time'?"}},
      {"fit - \"'Core strength' = a + b*Drying_time\"", cores, 2, {"did you mean 'Drying time'?"}},
      {"fit - \"'Core strength' = a + b*dryingtime\"", cores, 2, {"did you mean 'Drying time'?"}},
      {"fit - 'T = m + k*time'", "time_s,T\n1,2\n2,3\n3,5\n", 2, {"did you mean 'time_s'?"}},
      {"fit - 'y = a + b*c-Pb'", "c-Pb,y\n1,2\n2,3\n3,5\n", 2, {"write 'c-Pb' with its quotation marks"}},
  };
  for (const Typed& typed : all) expect_said(typed);
}

TEST(Columns, MayGoUnsaidWhereTwoHoldNumbers) {
  const std::vector<Typed> all = {
      {"fit - line", cores, 0, {"x is 'Drying time' and y is 'Core strength'"}},
      {"fit - 'y = a + b*x'", cores, 0, {"'Core strength' = a + b*'Drying time'"}},
      {"fit - line --x t", cooling, 0, {"y is 'T'"}},
      {"compare - line polynomial(2)", cooling, 0, {"x is 't' and y is 'T'"}},
      {"calibrate -", cooling, 0, {"x is 't' and y is 'T'"}},
      {"fit - line", "sample,x,y,u(y)\na,1,2,1\nb,2,3,1\nc,3,5,1\n", 0, {"x is 'x' and y is 'y'", "u(y)"}},
      {"fit - line", "when,T\n2026-11-24,1\n2026-11-25,2\n2026-11-27,5\n", 0, {"'when' holds dates", "1/d"}},
      {"fit - line", "a,b,c\n1,2,3\n2,3,4\n3,4,6\n", 2, {"a, b, c", "add --x COLUMN --y COLUMN"}},
      {"fit - line --x a", "a,b,c\n1,2,3\n2,3,4\n3,4,6\n", 2, {"add --y COLUMN"}},
      {"fit - 'y = a + b*x'", "a,b,c\n1,2,3\n2,3,4\n3,4,6\n", 2, {"it is not said which columns are meant"}},
  };
  for (const Typed& typed : all) expect_said(typed);
}

TEST(Columns, BindXAndYOfAnEquationOrAreRefused) {
  const std::vector<Typed> all = {
      {"fit - 'y = a + b*x' --x t --y T", cooling, 0, {"T = a + b*t"}},
      {"fit - 'ln(y) = c - k*x^2' --x t --y T", cooling, 0, {"ln(T) = c - k*t^2"}},
      {"fit - 'T = a + b*t' --x t --y T", cooling, 0, {"T = a + b*t"}},
      {"fit - 'T = a + b*t' --x T", cooling, 2, {"--x T: that column does not stand in"}},
      {"fit - 'T = a + b*t' --y t", cooling, 2, {"--y t: that column does not stand in"}},
      {"fit - 'T = mt + b'", cooling, 2, {"to multiply write m*t", "the columns are: t, T"}},
      {"fit - 'T = a + b*z'", cooling, 2, {"no column of standard input stands on the right"}},
      {"fit - 'T = K'", cooling, 0, {"K is 794(62)"}},
      {"fit - 'T ~ t'", cooling, 2, {"an equation with its parameters"}},
      // a candidate's own columns, beside those of a shape
      {"compare - line 'T = a + b*t + c*t^2' --x t --y T", cooling, 0, {"T = a + b*t + c*t^2"}},
  };
  for (const Typed& typed : all) expect_said(typed);
}

TEST(Columns, OfUncertaintiesAreSpokenOf) {
  const std::string rows = "\n1,2,0.1\n2,3,0.1\n3,5,0.1\n";
  for (const char* header : {"dy", "y_err", "sigma_y", "sd(y)", "s_y", "y error", "±", "error", "unc", "std"}) {
    const std::string table = "x,y," + std::string(header) + rows;
    const auto silent = run_typed("fit - line --x x --y y", table);
    EXPECT_TRUE(has(silent.error, fmt::format("column '{}' looks like the standard uncertainty of 'y'", header)))
        << header << silent.error;
    const auto used =
        run_command({"fit", "-", "line", "--x", "x", "--y", "y", "--u", fmt::format("y={}", header)}, table);
    EXPECT_EQ(used.error, "") << header;
    EXPECT_TRUE(has(used.out, "from column")) << header;
  }
  // "u y" is no name of a column of uncertainties that is taken by itself, and one of another quantity is none.
  EXPECT_TRUE(has(run_typed("fit - line", "x,y,u y" + rows).error, "'u y' looks like"));
  EXPECT_EQ(run_typed("fit - line --x x --y y", "x,y,day" + rows).error, "");
  EXPECT_EQ(run_typed("fit - 'y = a + b*x + c*dy'", "x,y,dy\n1,2,1\n2,3,0\n3,5,1\n4,4,0\n5,6,2\n").error, "");
}

// What holds for all candidates is said once.
TEST(Columns, AreSpokenOfOnce) {
  const auto result =
      run_typed("compare - line polynomial(2) 'y = a'", "x,y,dy\n1,2,1\n2,3,1\n3,5,1\n4,5,1\n5,8,1\n6,8,1\n");
  EXPECT_EQ(result.code, 0) << result.error;
  const auto first = result.error.find("x is 'x' and y is 'y'");
  ASSERT_NE(first, std::string::npos) << result.error;
  EXPECT_EQ(result.error.find("x is 'x'", first + 1), std::string::npos) << result.error;
  EXPECT_EQ(result.error.find("looks like"), result.error.rfind("looks like")) << result.error;
}

// The record holds the headers, and every later command takes them.
TEST(Columns, KeepTheirHeadersInRecords) {
  const TemporaryFolder folder;
  const std::string record = (folder / "r.json").string();
  std::ofstream(folder / "t.csv") << cores;
  const std::string table = (folder / "t.csv").string();
  ASSERT_EQ(run_command({"fit", table, "line", "--x", "Drying time", "--y", "Core strength", "--output", record}).code,
            0);
  EXPECT_EQ(read_fit_record(test::file_text(record), record).predictors()[0].name, "Drying time");
  for (const std::string& at :
       {std::string("Drying time=4"), std::string("Drying time (min) = 4"), std::string("'Drying time'=4")})
    EXPECT_TRUE(has(run_command({"predict", record, "--at", at}).out, "5.123(36)"))
        << at << run_command({"predict", record, "--at", at}).out;
  EXPECT_TRUE(has(run_command({"predict", record, "--at-file", table}).out, "9.19"));
  EXPECT_EQ(run_command({"solve", record, "--for", "Core strength=5"}).code, 0);
  const auto unknown = run_command({"predict", record, "--at", "time=4"});
  EXPECT_EQ(unknown.code, 2);
  EXPECT_TRUE(has(unknown.error, "its predictor is 'Drying time'"));
  const std::string calibration = (folder / "c.json").string();
  ASSERT_EQ(
      run_command({"calibrate", table, "--x", "Drying time", "--y", "Core strength", "--output", calibration}).code, 0);
  EXPECT_EQ(run_command({"quantify", calibration, "-"}, "sample,Core strength (MPa)\na,5\nb,6\n").code, 0);
  std::ofstream(folder / "s.toml")
      << "[study]\ntitle = \"Cores\"\n[data.cores]\nfile = \"t.csv\"\nx = \"Drying time\"\ny = \"Core strength\"\n"
         "[[task]]\nname = \"fitted\"\ncommand = \"fit\"\ndata = \"cores\"\nmodel = \"line\"\nfigure = true\n"
         "[[task]]\nname = \"at\"\ncommand = \"predict\"\nrecord = \"fitted\"\nat = [\"Drying time=4\"]\n";
  const auto study = run_command({"run", (folder / "s.toml").string(), "--into", (folder / "out").string()});
  EXPECT_EQ(study.code, 0) << study.error;
}

TEST(Options, TakeWhatIsTypedFirst) {
  const std::vector<Typed> all = {
      {"fit - line --level 80%", cooling, 0, {"80 % interval"}},
      {"fit - line --level 95", cooling, 2, {"write 0.95, or 95%"}},
      {"fit - line --level 0", cooling, 2, {"is not between 0 and 1"}},
      {"fit - line --hypothesis 'b < -10'",
       cooling,
       0,
       {"one-sided p = 0.002", "the difference is significant at the 5 % level"}},
      {"fit - line --hypothesis 'b > -10'",
       cooling,
       0,
       {"one-sided p = 0.998", "no significant difference in this direction"}},
      {"fit - line --brief", cooling, 0, {"Parameters"}},
      {"fit - line --equation spreadsheet --cell B7", cooling, 0, {"*B7"}},
      {"fit - line --cell B7", cooling, 2, {"--equation"}},
      {"fit - line --equation spreadsheet --cell B7 --band --level 90%",
       cooling,
       0,
       {"T\t=", "\nupper limit of the 90 % confidence band of the curve\t=", "*(B7 - "}},
      {"fit - line --equation text --band", cooling, 0, {"\nT_u = sqrt(", "\nT_new_high = "}},
      {"fit - line --band", cooling, 2, {"--equation"}},
      {"fit - line --output -", cooling, 0, {"\"record\": \"truecurve.fit/1\""}},
      {"fit - line --output - --format csv", cooling, 2, {"--format does not go with --output -"}},
      {"fit demo/density.csv demo/tone.csv line", "", 2, {"fit takes one FILE, and two are given", "tone.csv'"}},
      {"fit - y = a --x t", cooling, 2, {"and '=' is given; what has blanks stands in quotation"}},
      {"look - more", cooling, 2, {"look takes FILE and no further word, and 'more' is given"}},
      {"calibrate - 'y = b*c'",
       cooling,
       2,
       {"calibrate takes FILE and no further word, and 'y = b*c' is given; a model is given with --model 'y = b*c'"}},
      {"completion --words predict demo/density.json --at ''", "", 0, {"w_Sn=\n"}},
      {"completion --words solve demo/density.json --for r", "", 0, {"rho=\n"}},
      {"completion --words fit demo/density.csv line --u ''", "", 0, {"w_Sn=\nrho=\n"}},
      {"-V", "", 0, {"truecurve 0."}},
      {"fit - line --rows --format csv",
       cooling,
       0,
       {"row,t,T,fitted,residual,standardized,leverage,cook_distance 1,0,980,"}},
      {"fit - line --title x", cooling, 2, {"--figure"}},
      {"fit - line --figure f.svg --size 10", cooling, 2, {"write width and height"}},
      {"fit - line --figure f.svg --font-size big", cooling, 2, {"--font-size"}},
      {"fit - line --figure f.svg --font-size 0", cooling, 2, {"above 0, such as 8"}},
      {"fit - line --figure f.svg --font-size 50 --size 600x400", cooling, 2, {"letters of 50 points do not fit"}},
      {"fit - line --figure f.svg --size 10x10", cooling, 2, {"choose 150 to"}},
      {"fit - line --figure f.svg --range-x 9..3", cooling, 2, {"has no length"}},
      {"fit - line --skip 1", "1 2 3\nt T\n0 980\n5 874\n10 781\n", 0, {"all 3 rows"}},
      // No number of a row has a fraction, and no range one end.
      {"fit - line --leave-out 3.5", cooling, 2, {"names no column"}},
      {"fit - line --leave-out 2..", cooling, 2, {"model text"}},
      {"fit - line --leave-out 1...3", cooling, 2, {"model text"}},
      {"fit - line --hypothesis 'cases(a < 1: a, otherwise: b) = -17'", cooling, 0, {"not rejected at the 5 %"}},
      // Nothing that is asked for is left without effect.
      {"fit - line --equation text --format json", cooling, 2, {"--format does not go with --equation"}},
      {"fit - line --equation text --brief", cooling, 2, {"--brief does not go with --equation"}},
      {"fit - line --equation c --cell B7", cooling, 2, {"cells belong to --equation spreadsheet"}},
      {"fit - line --distribution normal --equation c", cooling, 2, {"truecurve predict RECORD --equation"}},
      {"fit - line --distribution normal --rows", cooling, 2, {"--rows does not go with --distribution"}},
      {"calibrate - --additions --rows", cooling, 2, {"--rows does not go with --additions"}},
      {"predict demo/lead_calibration.json --equation text", "", 3, {"truecurve.calibration/1"}},
  };
  for (const Typed& typed : all) expect_said(typed);
  const auto rows =
      test::json_of(run_typed("calibrate - --rows --simulations 0 --format json", cooling))["fit"]["rows"];
  ASSERT_EQ(rows.size(), 5u);
  EXPECT_EQ(rows[4]["at"]["t"], 20);
  EXPECT_NEAR(rows[4]["fitted"].get<double>() + rows[4]["residual"].get<double>(), 632, 1e-9);
  const auto brief = run_typed("fit - line --brief", cooling);
  EXPECT_FALSE(has(brief.out, "Goodness of fit"));
  EXPECT_FALSE(has(brief.out, "Residual checks"));
}

}  // namespace
}  // namespace truecurve
