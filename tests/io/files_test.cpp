// Files that are written whole or not at all, and studies as they are read.
#include <truecurve/io/files.hpp>
#include <truecurve/io/study.hpp>

#include "../support.hpp"

#include <csignal>
#include <cstdlib>
#include <fstream>
#include <thread>

#include <fcntl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

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
  EXPECT_TRUE(has(error.what(), "none"));
  std::filesystem::create_directory(folder / "taken");
  std::ofstream(folder / "taken" / "inside") << "x";
  EXPECT_EQ(test::caught([&] { write_file(folder / "taken", "lost"); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(files_in(folder.path()), 2u) << "nothing is left behind";
}

// Of a disk that is full: files may grow to a limit and no further, as they may on a disk. In a process of its own.
int code_on_full_disk(const std::filesystem::path& file, const std::string& text, std::size_t bytes) {
  const pid_t child = fork();
  if (child == 0) {
    const rlimit limit{bytes, bytes};
    std::signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &limit);
    try {
      write_file(file, text);
      _exit(0);
    } catch (const Error& error) {
      _exit(error.code() == ErrorCode::cannot_write && error.place().file == file.string() ? 5 : 1);
    }
  }
  int status = 0;
  waitpid(child, &status, 0);
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

TEST(WriteFile, NoticesAFullDiskAndLosesNothing) {
  const test::TemporaryFolder folder;
  const std::string text(20'000, 'x');
  for (const bool is_there : {false, true}) {
    if (is_there) write_file(folder / "a", "before");
    for (const std::size_t bytes : {0u, 12'000u, 19'999u}) {
      EXPECT_EQ(code_on_full_disk(folder / "a", text, bytes), 5) << bytes;
      EXPECT_EQ(files_in(folder.path()), is_there ? 1u : 0u) << bytes;
      if (is_there) EXPECT_EQ(test::file_text(folder / "a"), "before") << bytes;
    }
  }
  EXPECT_EQ(code_on_full_disk(folder / "a", text, 20'000), 0);
  EXPECT_EQ(test::file_text(folder / "a"), text);
}

TEST(WriteFile, LeavesLinksPermissionsAndDevicesWhatTheyAre) {
  const test::TemporaryFolder folder;
  namespace fs = std::filesystem;
  fs::create_directory(folder / "far");
  write_file(folder / "far" / "target", "before");
  fs::permissions(folder / "far" / "target", fs::perms{0640});
  fs::create_symlink("far/target", folder / "link");
  fs::create_symlink("link", folder / "link to link");
  write_file(folder / "link to link", "after");
  EXPECT_TRUE(fs::is_symlink(folder / "link"));
  EXPECT_TRUE(fs::is_symlink(folder / "link to link"));
  EXPECT_EQ(test::file_text(folder / "far" / "target"), "after");
  EXPECT_EQ(fs::status(folder / "far" / "target").permissions(), fs::perms{0640});
  fs::create_symlink("far/new", folder / "to nothing");
  write_file(folder / "to nothing", "made");
  EXPECT_EQ(test::file_text(folder / "far" / "new"), "made");
  fs::create_symlink("round", folder / "round");
  EXPECT_EQ(test::caught([&] { write_file(folder / "round", "lost"); }).code(), ErrorCode::cannot_write);
  const mode_t mask = umask(022);
  write_file(folder / "plain", "made");
  umask(mask);
  EXPECT_EQ(fs::status(folder / "plain").permissions(), fs::perms{0644}) << "as the user's mask says";
  EXPECT_NO_THROW(write_file("/dev/null", "gone"));
  EXPECT_TRUE(fs::is_character_file("/dev/null"));
  EXPECT_EQ(test::caught([&] { write_file("/dev/full", "lost"); }).code(), ErrorCode::cannot_write);
  ASSERT_EQ(mkfifo((folder / "fifo").c_str(), 0600), 0);
  std::thread writer([&] { write_file(folder / "fifo", "through"); });
  EXPECT_EQ(test::file_text(folder / "fifo"), "through");
  writer.join();
  EXPECT_TRUE(fs::is_fifo(folder / "fifo"));
}

// A file that is written under its own link while standard output goes to it: both texts are in it.
TEST(WriteFile, WritesToTheStreamsOfTheProgram) {
  const test::TemporaryFolder folder;
  const pid_t child = fork();
  if (child == 0) {
    const int out = open((folder / "out").c_str(), O_CREAT | O_WRONLY, 0600);
    dup2(out, STDOUT_FILENO);
    bool written = write(STDOUT_FILENO, "first ", 6) == 6;
    write_file("/dev/stdout", "second ");
    write_file(folder / "out", "third ");
    write_file(fmt::format("/dev/fd/{}", out), "fourth");
    _exit(written ? 0 : 1);
  }
  int status = 0;
  waitpid(child, &status, 0);
  EXPECT_EQ(status, 0);
  EXPECT_EQ(test::file_text(folder / "out"), "first second third fourth");
}

TEST(RequireWritable, RefusesAtOnceWhatIsNoPlace) {
  const test::TemporaryFolder folder;
  std::filesystem::create_directory(folder / "folder");
  for (const std::filesystem::path& file :
       std::vector<std::filesystem::path>{"", "/", ".", folder / "folder", folder / "new/"})
    EXPECT_EQ(test::caught([&] { require_writable(file); }).code(), ErrorCode::bad_argument) << file;
  EXPECT_EQ(test::caught([&] { require_writable(folder / "none" / "a"); }).code(), ErrorCode::cannot_write);
  EXPECT_NO_THROW(require_writable(folder / "a"));
  EXPECT_NO_THROW(require_writable("/dev/null"));
  EXPECT_EQ(files_in(folder.path()), 1u) << "looking makes nothing";
}

TEST(IsSameFile, SeesThroughSpellingsAndLinks) {
  const test::TemporaryFolder folder;
  namespace fs = std::filesystem;
  write_file(folder / "a", "a");
  write_file(folder / "b", "a");
  fs::create_symlink("a", folder / "soft");
  fs::create_hard_link(folder / "a", folder / "hard");
  EXPECT_TRUE(is_same_file(folder / "a", folder / "." / "a"));
  EXPECT_TRUE(is_same_file(folder / "a", folder / "soft"));
  EXPECT_TRUE(is_same_file(folder / "hard", folder / "soft"));
  EXPECT_FALSE(is_same_file(folder / "a", folder / "b"));
  EXPECT_FALSE(is_same_file(folder / "a", folder / "new"));
  EXPECT_TRUE(is_same_file(folder / "new", folder / "x" / ".." / "new"));
  EXPECT_FALSE(is_same_file(folder / "new", folder / "newer"));
  EXPECT_FALSE(is_same_file("/dev/null", "/dev/null")) << "it may be named twice";
}

TEST(Together, PublishesAllOrNothing) {
  const test::TemporaryFolder folder;
  namespace fs = std::filesystem;
  write_file(folder / "old", "before");
  {
    Together dropped;
    write_file(folder / "old", "after");
    write_file(folder / "new", "made");
    EXPECT_EQ(files_in(folder.path()), 1u) << "what has no place has no name either";
  }
  EXPECT_EQ(test::file_text(folder / "old"), "before");
  Together kept;
  write_file(folder / "old", "after");
  write_file(folder / "new", "made");
  {
    Together inner;
    write_file(folder / "inner", "first");
    inner.publish();
    EXPECT_EQ(test::file_text(folder / "inner"), "first");
  }
  kept.publish();
  EXPECT_EQ(test::file_text(folder / "old"), "after");
  EXPECT_EQ(test::file_text(folder / "new"), "made");
  kept.publish();  // there is nothing left to publish
  // One that can't take its place takes all back.
  Together failing;
  write_file(folder / "new", "lost");
  write_file(folder / "newer", "lost");
  write_file(folder / "taken", "lost");
  fs::create_directories(folder / "taken" / "inside");
  const Error error = test::caught([&] { failing.publish(); });
  EXPECT_EQ(error.code(), ErrorCode::cannot_write);
  EXPECT_EQ(error.place().file, (folder / "taken").string());
  EXPECT_EQ(test::file_text(folder / "new"), "made");
  EXPECT_TRUE(fs::is_directory(folder / "taken" / "inside"));
  EXPECT_EQ(files_in(folder.path()), 4u) << "inner, new, old, taken";
}

TEST(Workshop, HandsOverOrGoes) {
  const test::TemporaryFolder folder;
  namespace fs = std::filesystem;
  {
    const Workshop dropped(folder / "results/");
    EXPECT_EQ(dropped.path().parent_path(), fs::canonical(folder.path())) << "beside its target";
    write_file(dropped.path() / "half", "half");
  }
  EXPECT_EQ(files_in(folder.path()), 0u);
  fs::create_directory(folder / "results");
  write_file(folder / "results" / "a", "before");
  write_file(folder / "results" / "other", "stays");
  {
    const Workshop kept(folder / "results");
    EXPECT_TRUE(Workshop::left_behind(folder / "results").empty()) << "it is in use";
    for (const char* name : {".results.abcd2345.part", ".result.abcd2345.part", ".results.abcd2345"})
      fs::create_directory(folder / name);
    EXPECT_EQ(Workshop::left_behind(folder / "results/"), std::vector<fs::path>{folder / ".results.abcd2345.part"});
    for (const char* name : {".results.abcd2345.part", ".result.abcd2345.part", ".results.abcd2345"})
      fs::remove(folder / name);
    write_file(kept.path() / "a", "after");
    write_file(kept.path() / "b", "made");
    kept.hand_over();
  }
  EXPECT_EQ(files_in(folder / "results"), 3u);
  EXPECT_EQ(test::file_text(folder / "results" / "a"), "after");
  fs::create_directory(folder / "results" / "c");
  {
    const Workshop failing(folder / "results");
    for (const char* name : {"a", "b", "c", "d"}) write_file(failing.path() / name, "lost");
    EXPECT_THROW(failing.hand_over(), Error);
  }
  EXPECT_EQ(test::file_text(folder / "results" / "a"), "after");
  EXPECT_EQ(test::file_text(folder / "results" / "b"), "made");
  EXPECT_FALSE(fs::exists(folder / "results" / "d"));
  write_file(folder / "file", "is no folder");
  EXPECT_EQ(test::caught([&] { Workshop(folder / "file"); }).code(), ErrorCode::cannot_write);
  EXPECT_EQ(files_in(folder.path()), 2u);
  // As on a signal, behind which no file is begun or removed any more.
  EXPECT_EXIT(
      {
        const Workshop stopped(folder / "stopped");
        remove_unfinished();
        std::_Exit(fs::exists(stopped.path()) ? 1 : 0);
      },
      testing::ExitedWithCode(0), "");
  EXPECT_EQ(files_in(folder.path()), 2u);
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
  EXPECT_TRUE(has(unknown.remedy(), "xx")) << unknown.what();
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
                         {"[", 1},
                         {"[[", 1},
                         {"[study", 1},
                         {"[study]\ntitle = [", 2},
                         {"[study]\ntitle = \"\"\"", 2},
                         {"[study]\ntitle = {", 2},
                         {"[study]\n\"", 2},
                         {"", 0}}) {
    const Error error = test::caught([&] { (void)read_study_text(c.text, "bad.toml"); });
    EXPECT_EQ(error.place().file, "bad.toml") << c.text;
    EXPECT_EQ(error.place().line, c.line) << c.text << error.what();
    EXPECT_FALSE(error.remedy().empty()) << c.text;
  }
}

}  // namespace
}  // namespace truecurve
