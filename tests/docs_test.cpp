// The documentation shows what the command really prints. A block that begins with `$ truecurve ...` is run from the
// source folder and its output compared; with TRUECURVE_UPDATE_DOCS set, the block is rewritten instead.
#include "support.hpp"

#include <cstdlib>
#include <fstream>

namespace truecurve {
namespace {

std::vector<std::string> words_of(const std::string& line) {
  std::vector<std::string> words;
  std::string word;
  char quote = 0;
  bool any = false;
  for (const char c : line) {
    if (quote != 0) {
      if (c == quote) {
        quote = 0;
      } else {
        word += c;
      }
    } else if (c == '"' || c == '\'') {
      quote = c;
      any = true;
    } else if (c == ' ') {
      if (any || !word.empty()) words.push_back(word);
      word.clear();
      any = false;
    } else {
      word += c;
    }
  }
  if (any || !word.empty()) words.push_back(word);
  return words;
}

// Runs the command of a block; pictures and records go to a folder that is thrown away unless a later block reads them.
std::string output_of(const std::string& line, const test::TemporaryFolder& folder) {
  std::vector<std::string> words = words_of(line);
  words.erase(words.begin(), words.begin() + 2);  // "$ truecurve"
  for (std::string& word : words) {
    const bool made = (word.ends_with(".png") || word.ends_with(".svg") || word.ends_with(".json")) &&
                      word.find('/') == std::string::npos;
    if (made) word = folder / word;
  }
  const auto result = test::run_command(words);
  return result.out + result.error;
}

TEST(Documentation, ShowsWhatTheCommandPrints) {
  const auto before = std::filesystem::current_path();
  std::filesystem::current_path(test::source_folder());
  const bool update = std::getenv("TRUECURVE_UPDATE_DOCS") != nullptr;
  int blocks = 0;
  for (const char* name : {"README.md", "docs/guide.md"}) {
    SCOPED_TRACE(name);
    const test::TemporaryFolder folder;
    std::istringstream text(test::file_text(name));
    std::string rebuilt, line;
    while (std::getline(text, line)) {
      rebuilt += line + "\n";
      if (!line.starts_with("$ truecurve ")) continue;
      ++blocks;
      const std::string expected = output_of(line, folder);
      std::string shown;
      while (std::getline(text, line) && line != "```") shown += line + "\n";
      if (!update) EXPECT_EQ(shown, expected);
      rebuilt += expected + "```\n";
    }
    if (update) std::ofstream(name) << rebuilt;
  }
  std::filesystem::current_path(before);
  EXPECT_GE(blocks, 3);
}

}  // namespace
}  // namespace truecurve
