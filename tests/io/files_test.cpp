// Files that are written whole or not at all, and studies as they are read.
#include <truecurve/base/error.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/io/study.hpp>
#include <truecurve/io/unfinished.hpp>

#include "../support.hpp"

#include <cstdlib>
#include <fstream>

namespace truecurve {
namespace {

std::size_t files_in(const std::filesystem::path& folder) {
  return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder), {}));
}

TEST(WriteFile, ReplacesInOneStepOrLeavesWhatWasThere) {
  const test::TemporaryFolder folder;
  write_file(folder / "a.json", "first");
  write_file(folder / "a.json", "second");
  EXPECT_EQ(test::file_text(folder / "a.json"), "second");
  EXPECT_EQ(files_in(folder.path()), 1u);
  const Error error = test::caught([&] { write_file(folder / "none" / "a.json", "lost"); });
  EXPECT_EQ(error.code(), ErrorCode::cannot_write);
  EXPECT_NE(std::string(error.what()).find("none"), std::string::npos);
  std::filesystem::create_directory(folder / "taken");
  std::ofstream(folder / "taken" / "inside") << "x";
  EXPECT_EQ(test::caught([&] { write_file(folder / "taken", "lost"); }).code(), ErrorCode::cannot_write);
  EXPECT_EQ(files_in(folder.path()), 2u) << "nothing is left behind";
}

TEST(Unfinished, IsGoneUnlessItTakesItsPlace) {
  const test::TemporaryFolder folder;
  {
    const Unfinished dropped(folder / "dropped");
    EXPECT_EQ(dropped.target(), folder / "dropped");
    EXPECT_NE(dropped.path(), dropped.target());
    EXPECT_EQ(dropped.path().parent_path(), folder.path()) << "beside its target, so that it can take its place";
    std::ofstream(dropped.path()) << "half";
  }
  EXPECT_EQ(files_in(folder.path()), 0u);
  {
    const Unfinished kept(folder / "kept");
    std::ofstream(kept.path()) << "whole";
    EXPECT_FALSE(kept.take_place());
  }
  EXPECT_EQ(test::file_text(folder / "kept"), "whole");
  // As on a signal, behind which no file is begun or removed any more.
  EXPECT_EXIT(
      {
        const Unfinished stopped(folder / "stopped");
        std::ofstream(stopped.path()) << "half";
        remove_unfinished();
        std::_Exit(std::filesystem::exists(stopped.path()) ? 1 : 0);
      },
      testing::ExitedWithCode(0), "");
  EXPECT_EQ(files_in(folder.path()), 1u);
}

TEST(ReadStudy, KeepsOrderPlacesAndKindsOfValues) {
  const Study study = read_study_text(
      "[study]\n"
      "title = \"Bronze\"\n"
      "note = \"On two days\"\n"
      "level = 0.9\n"
      "[data.standards]\n"
      "file = \"lead.csv\"\n"
      "[[task]]\n"
      "name = \"line\"\n"
      "command = \"fit\"\n"
      "x = [\"a\", \"b\"]\n"
      "counts = true\n"
      "[[task]]\n"
      "name = \"second\"\n"
      "command = \"compare\"\n",
      "foundry.toml");
  EXPECT_EQ(study.title, "Bronze");
  EXPECT_EQ(study.note, "On two days");
  EXPECT_EQ(study.source, "foundry.toml");
  ASSERT_EQ(study.common.size(), 1u);
  EXPECT_EQ(study.common[0].key, "level");
  EXPECT_EQ(study.common[0].values, std::vector<std::string>{"0.9"});
  ASSERT_EQ(study.data.size(), 1u);
  EXPECT_EQ(study.data[0].name, "standards");
  EXPECT_EQ(study.data[0].value("file"), "lead.csv");
  ASSERT_EQ(study.tasks.size(), 2u);
  const StudyTable& first = study.tasks[0];
  EXPECT_EQ(first.name, "line");
  EXPECT_EQ(study.tasks[1].name, "second");
  ASSERT_EQ(first.entries.size(), 3u);
  EXPECT_EQ(first.entries[0].key, "command");
  EXPECT_EQ(first.entries[1].values, (std::vector<std::string>{"a", "b"}));
  EXPECT_EQ(first.entries[1].place.line, 10u);
  EXPECT_TRUE(first.entries[2].is_boolean);
  EXPECT_EQ(first.find("nothing"), nullptr);
  EXPECT_EQ(first.value("nothing"), "");
  EXPECT_EQ(test::caught([&] { (void)first.value("x"); }).code(), ErrorCode::bad_argument);
  EXPECT_NO_THROW(require_known_keys(first, {"command", "x", "counts"}, "a task"));
  const Error unknown = test::caught([&] { require_known_keys(first, {"command", "xx", "counts"}, "a task"); });
  EXPECT_EQ(unknown.place().line, 10u);
  EXPECT_NE(unknown.remedy().find("xx"), std::string::npos) << unknown.what();
}

TEST(ReadStudy, RefusesWhatIsNoStudyWithItsPlace) {
  struct Case {
    std::string text;
    std::size_t line;
  };
  for (const Case& c :
       std::vector<Case>{{"[study]\ntitle = \n", 2},
                         {"[other]\nx = 1\n", 1},
                         {"[[task]]\ncommand = \"fit\"\n", 1},
                         {"[[task]]\nname = \"a\"\ncommand = \"fit\"\n[[task]]\nname = \"a\"\ncommand = \"fit\"\n", 4},
                         {"[[task]]\nname = \"a\"\ncommand = \"fit\"\nx = {y = 1}\n", 4},
                         {"", 0}}) {
    const Error error = test::caught([&] { (void)read_study_text(c.text, "bad.toml"); });
    EXPECT_EQ(error.place().file, "bad.toml") << c.text;
    EXPECT_EQ(error.place().line, c.line) << c.text << error.what();
    EXPECT_FALSE(error.remedy().empty()) << c.text;
  }
}

}  // namespace
}  // namespace truecurve
