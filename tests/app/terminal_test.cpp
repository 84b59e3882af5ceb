// What a terminal gets: its width, its colours, its progress; and what explains and completes the command.
#include "../../app/arguments.hpp"
#include "../../app/completion.hpp"
#include "../../app/glossary.hpp"
#include "../../app/manual.hpp"
#include "../../app/option_words.hpp"
#include "../../app/progress.hpp"
#include "../../app/run.hpp"
#include "../../app/topics.hpp"
#include "../support.hpp"

#include <cctype>
#include <chrono>
#include <cstdio>
#include <thread>

namespace truecurve {
namespace {

using test::demo_file;
using test::run_command;
using test::run_typed;
using Words = std::vector<std::string>;

std::string on_terminal(const Words& arguments, const app::Terminal& terminal) {
  std::istringstream in;
  std::ostringstream out;
  std::ostringstream error;
  EXPECT_EQ(app::run(arguments, {in, out, error, terminal}), 0) << error.str();
  return out.str();
}

Words words_of(const std::string& text) {
  std::istringstream stream(text);
  Words words{std::istream_iterator<std::string>(stream), {}};
  std::sort(words.begin(), words.end());
  words.erase(std::unique(words.begin(), words.end()), words.end());
  return words;
}

std::size_t widest_line(const std::string& text) {
  std::istringstream lines(text);
  std::size_t widest = 0;
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with("  truecurve ") || line.starts_with("    --")) continue;  // to be copied as it is
    // Characters, not bytes.
    const auto shown = std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xC0) != 0x80; });
    widest = std::max(widest, static_cast<std::size_t>(shown));
  }
  return widest;
}

const std::vector<Words>& pages() {
  static const std::vector<Words> all = {
      {"fit", demo_file("thermometers.csv"), "line", "--x", "t_ref", "--y", "t_test"},
      {"quantify", demo_file("lead_calibration.json"), demo_file("lead_unknowns.csv")},
      {"compare", demo_file("density.csv"), "polynomial(1..4)", "--x", "w_Sn", "--y", "rho"},
      {"calibrate", demo_file("lead_calibration.csv"), "--x", "c_Pb", "--y", "I"},
      {"predict", demo_file("density.json"), "--at", "w_Sn=5,10"},
      {"help", "uncertainty"},
      {"fit", "--help"}};
  return all;
}

TEST(Terminal, SetsEveryPageInItsWidthWithoutLosingAWord) {
  for (const Words& arguments : pages()) {
    SCOPED_TRACE(arguments[0]);
    const std::string plain = on_terminal(arguments, {});
    for (const std::size_t columns : {60u, 80u, 200u}) {
      const std::string page = on_terminal(arguments, {.columns = columns});
      EXPECT_LE(widest_line(page), columns) << page;
      EXPECT_EQ(words_of(page), words_of(plain));
    }
  }
}

TEST(Terminal, AddsColourAndNothingElse) {
  for (const Words& arguments : pages()) {
    const std::string plain = on_terminal(arguments, {});
    std::string coloured = on_terminal(arguments, {.output = app::Paint::coloured});
    EXPECT_EQ(plain.find('\033'), std::string::npos);
    for (std::size_t at = 0; (at = coloured.find("\033[", at)) != std::string::npos;)
      coloured.erase(at, coloured.find('m', at) + 1 - at);
    EXPECT_EQ(coloured, plain);
  }
  EXPECT_TRUE(has(on_terminal(pages()[0], {.output = app::Paint::coloured}), "\033[1mParameters\033[0m\n"));
}

TEST(Progress, ShowsWhatTakesLongAndWipesIt) {
  std::ostringstream terminal;
  {
    app::Progress progress(terminal);
    progress.begin(std::chrono::milliseconds(0));
    progress.say("fitting");
    while (terminal.str().find("fitting, 0 s") == std::string::npos) {
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
      progress.write("");  // takes its turn, so that the text can be read
    }
    progress.write("a remark\n");
  }
  const std::string shown = terminal.str();
  EXPECT_TRUE(has(shown, "\r\033[Ka remark\n"));
  EXPECT_TRUE(shown.ends_with("\r\033[K"));
  // Not for what is done at once, and not where it was forbidden.
  std::istringstream in;
  std::ostringstream out;
  std::ostringstream error;
  EXPECT_EQ(app::run(pages()[0], {in, out, error, {.shows_progress = true}}), 0);
  EXPECT_EQ(error.str(), "");
}

TEST(Help, ExplainsEveryCommandAndTopicAndSuggestsTheNearest) {
  const std::string overview = run_typed("help").out;
  for (const app::Topic& topic : app::topics()) {
    EXPECT_TRUE(has(overview, "  " + topic.name));
    const auto shown = run_command({"help", topic.name});
    EXPECT_EQ(shown.code, 0);
    EXPECT_TRUE(shown.out.starts_with(topic.name + ": " + topic.title)) << shown.out;
  }
  EXPECT_EQ(run_typed("help fit").out, run_typed("fit --help").out);
  const auto mistyped = run_typed("help uncertanty");
  EXPECT_EQ(mistyped.code, 2);
  EXPECT_TRUE(has(mistyped.error, "did you mean 'uncertainty'"));
}

TEST(Completion, KnowsCommandsOptionsValuesShapesAndColumns) {
  struct Case {
    Words words;
    Words first;  // what is offered begins with these
  };
  for (const auto& [words, first] : std::vector<Case>{{{"ca"}, {"calibrate"}},
                                                      {{"--v"}, {"--version"}},
                                                      {{"fit", "--unc"}, {"--uncertainty"}},
                                                      {{"fit", "--uncertainty", ""}, {"stated", "scatter"}},
                                                      {{"fit", "--uncertainty", "=", "st"}, {"stated"}},
                                                      {{"fit", "--uncertainty", "="}, {"stated", "scatter"}},
                                                      {{"fit", demo_file("tone.csv"), "--x", ""}, {"t", "D", "f"}},
                                                      {{"fit", demo_file("tone.csv"), "poly"}, {"polynomial(2)"}},
                                                      {{"fit", "--x", "t", "a.csv", "lorentz"}, {"lorentzian-peak"}},
                                                      {{"compare", "a.csv", "line", "gom"}, {"gompertz"}},
                                                      {{"help", "unc"}, {"uncertainty"}},
                                                      {{"help", "quan"}, {"quantify"}},
                                                      {{"completion", ""}, {"bash", "fish", "zsh"}},
                                                      {{"--no-progress", "look"}, {"look"}},
                                                      {{"fit", ""}, {}},
                                                      {{"fit", "none.csv", "--x", ""}, {}},
                                                      {{"fit", "a.csv", "line", "--output", "x"}, {}},
                                                      {{"nothing", "x"}, {}},
                                                      {{}, {}}}) {
    Words offered = app::completions(words);
    SCOPED_TRACE(::testing::PrintToString(words) + ::testing::PrintToString(offered));
    ASSERT_GE(offered.size(), first.size());
    if (first.empty()) EXPECT_TRUE(offered.empty());
    offered.resize(first.size());
    EXPECT_EQ(offered, first);
  }
  EXPECT_EQ(run_typed("completion --words ca").out, "calibrate\n");
  for (const char* shell : {"bash", "zsh", "fish"})
    EXPECT_TRUE(has(run_command({"completion", shell}).out, "truecurve completion --words"));
  EXPECT_EQ(run_typed("completion sh").code, 2);
}

TEST(Manual, HasAPageForEveryCommandAndTopicWithEveryOption) {
  const auto pages = app::manual_pages();
  const auto page = [&pages](const std::string& file) {
    const auto at = std::find_if(pages.begin(), pages.end(), [&file](const auto& p) { return p.file == file; });
    return at == pages.end() ? std::string() : at->text;
  };
  EXPECT_TRUE(has(page("truecurve.1"), "\\fBcalibrate\\fR"));
  for (const app::Topic& topic : app::topics()) EXPECT_NE(page("truecurve-" + topic.name + ".7"), "") << topic.name;
  const std::string fit = page("truecurve-fit.1");
  EXPECT_TRUE(fit.starts_with(".TH TRUECURVE\\-FIT 1 "));
  for (const char* expected :
       {"\\fBtruecurve fit\\fR \\fIFILE\\fR", "\\fB\\-\\-uncertainty\\fR \\fIstated|scatter\\fR\n",
        "\\fB\\-\\-level\\fR \\fINUMBER|PERCENT%\\fR\n", "(default: 0.95)", ".SH EXAMPLE\n.EX\n  truecurve fit demo/"})
    EXPECT_TRUE(has(fit, expected));
}

TEST(Units, CanBeGivenToColumnsWithoutThem) {
  const std::string rows = "t,y\n1,2.1\n2,3.9\n3,6.2\n4,7.9\n";
  const Words line = {"fit", "-", "line", "--x", "t", "--y", "y", "--unit", "t=min", "--unit", "y=mm"};
  const auto result = run_command(line, rows);
  EXPECT_EQ(result.code, 0) << result.error;
  EXPECT_TRUE(has(result.out, "mm/min"));
  EXPECT_TRUE(has(run_typed("fit - line --x t --y y --unit s=min", rows).error, "'s'"));
}

// The library's steps are said in options that exist, with what is known of their values.
TEST(OptionWords, NameOptionsOfTheCommand) {
  for (int code = 0; code <= static_cast<int>(Action::write_record); ++code) {
    if (static_cast<Action>(code) == Action::list_shapes) continue;  // a command
    const std::string words = app::option_words({static_cast<Action>(code), ""});
    const std::string option = words.substr(0, words.find_first_of(" ="));
    const auto commands = app::describe_commands();
    EXPECT_TRUE(std::any_of(commands.begin(), commands.end(), [&](const app::CommandDescription& command) {
      return command.find(option) != nullptr;
    })) << words;
  }
  EXPECT_EQ(app::option_words({Action::leave_row_out, "3"}), "--leave-out 3");
  EXPECT_EQ(app::option_words({Action::name_event, "not sound"}), "--event 'not sound'");
  EXPECT_EQ(app::option_words({Action::choose_scatter, "both"}), "--spread both");
  EXPECT_EQ(app::option_words({Action::hold_parameter, "b"}), "--fix b=VALUE");
  EXPECT_EQ(app::option_words({Action::hold_parameter, ""}), "--fix NAME=VALUE");
  EXPECT_EQ(app::option_words({Action::name_unit, "t="}), "--unit t=UNIT");
  EXPECT_EQ(app::option_words({Action::name_unit, "t=min"}), "--unit t=min");
  EXPECT_EQ(app::option_words({Action::omit_uncertainty, "y"}), "--u y=none");
  EXPECT_EQ(app::option_words({Action::treat_blank, "include"}), "--blank include");
}

// What a report says can be pasted: the shell hands every word back as it was.
TEST(Quoted, IsOneWordToAShell) {
  for (const std::string word : {"plain", "", "not sound", "it's", "''", "$(echo x)", "`id`", "$HOME \"a\" \\ \n!x",
                                 "-x", "*", "a;b|c&d", "36: mistyped"}) {
    std::FILE* const shell = popen(("printf '[%s]' " + app::quoted(word)).c_str(), "r");
    ASSERT_NE(shell, nullptr);
    std::string back;
    for (int c = 0; (c = std::fgetc(shell)) != EOF;) back += static_cast<char>(c);
    EXPECT_EQ(pclose(shell), 0);
    EXPECT_EQ(back, "[" + word + "]");
  }
  EXPECT_EQ(app::quoted("lead.csv"), "lead.csv");
}

// A table may hold anything, and a terminal does as its characters say.
TEST(Complaint, ShowsWhatAColumnIsCalledAndDoesNotObeyIt) {
  const auto result = test::run_typed("fit - line --x x --y z", "x,\x1b[2Jy\u202e\n1,2\n2,3\n3,5\n");
  EXPECT_EQ(result.code, 3);
  EXPECT_EQ(result.error.find('\x1b'), std::string::npos) << result.error;
  EXPECT_TRUE(has(result.error, "<ESC>[2Jy<U+202E>"));
  const auto page =
      test::run_command({"fit", "-", "line", "--x", "x", "--y", "\x1b[2Jy"}, "x,\x1b[2Jy\n1,2\n2,3\n3,5\n4,6.5\n");
  EXPECT_EQ(page.code, 0) << page.error;
  EXPECT_EQ((page.out + page.error).find('\x1b'), std::string::npos) << page.out;
}

// The words that people ask for have an entry, in the order of the alphabet, each word once.
TEST(Glossary, ExplainsTheWordsOfTheReports) {
  for (const char* word :
       {"AICc", "LOD", "loq", "outlier", "R2", "R²", "covariance", "weight", "correlation", "equation", "units",
        "Birge ratio", "relative offset", "variable projection", "intrinsic curvature", "Cook", "p", "k"}) {
    const auto result = run_command({"help", word});
    EXPECT_EQ(result.code, 0) << word;
    EXPECT_GT(result.out.size(), 100u) << word;
  }
  EXPECT_TRUE(has(run_typed("help detection limit").out, "ISO 11843"));
  EXPECT_TRUE(has(run_typed("help outlyer").error, "did you mean 'outlier'"));
  std::string before;
  for (const app::GlossaryEntry& entry : app::glossary()) {
    std::string word(entry.word);
    std::transform(word.begin(), word.end(), word.begin(), [](unsigned char c) { return std::tolower(c); });
    EXPECT_LT(before, word);
    before = word;
  }
  std::vector<std::string> words = app::glossary_words();
  std::sort(words.begin(), words.end());
  EXPECT_EQ(std::adjacent_find(words.begin(), words.end()), words.end())
      << *std::adjacent_find(words.begin(), words.end());
}

}  // namespace
}  // namespace truecurve
