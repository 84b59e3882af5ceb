// A study: data and tasks in a TOML file, so that an analysis can be repeated.
//
// Example:
//     const auto study = truecurve::read_study_text(
//         "[study]\ntitle = 'Density'\n[data.castings]\nfile = 'density.csv'\n"
//         "[[task]]\nname = 'ladder'\ncommand = 'compare'\ndata = 'castings'\ncandidates = ['polynomial(1..3)']\n",
//         "study.toml");
//     EXPECT_EQ(study.tasks[0].find("candidates")->values[0], "polynomial(1..3)");
#pragma once

#include <truecurve/base/error.hpp>

#include <filesystem>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// One key with its value, or its values where it is a list. Numbers are in their shortest form; true and false are
/// words.
struct StudyEntry {
  std::string key{};
  std::vector<std::string> values{};
  bool is_boolean = false;
  Place place{};
};

/// A table of a study: one of its data or one of its tasks.
struct StudyTable {
  std::string name{};
  std::vector<StudyEntry> entries{};  ///< in the order of the file, `name` not among them
  Place place{};

  /// The entry of that key, or nullptr. Throws no Error of its own.
  [[nodiscard]] const StudyEntry* find(std::string_view key) const;
  /// The one value of a key, or empty where there is none. Throws Error (bad_argument) where it is a list.
  [[nodiscard]] std::string value(std::string_view key) const;
};

struct Study {
  std::string title{};
  std::string note{};                ///< what the report says of the study as a whole
  std::vector<StudyEntry> common{};  ///< `level` and `seed` of [study]: for every task that takes them
  std::vector<StudyTable> data{};    ///< tables [data.NAME]
  std::vector<StudyTable> tasks{};   ///< tables [[task]], in the order of the work
  std::string source{};
  std::string sha256{};
};

/// Throws Error: file_not_found, syntax (no TOML), unknown_option (a key that no study has), bad_argument (a value of
/// another kind than it should be, two tasks of one name, a task without name or command), each with line and column.
[[nodiscard]] Study read_study(const std::filesystem::path& file);
/// The same of a text; `source` is the name used in messages. Throws Error as the other.
[[nodiscard]] Study read_study_text(std::string_view text, const std::string& source);

/// Refuses a key that is not among those known, naming the nearest. Throws Error (unknown_option) with line and column.
void require_known_keys(const StudyTable& table, const std::vector<std::string>& known, const std::string& of_what);

}  // namespace truecurve
