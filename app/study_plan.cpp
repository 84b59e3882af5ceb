// Translates the tasks of a study.
#include "study_plan.hpp"

#include <truecurve/data/table.hpp>

#include "arguments.hpp"

#include <algorithm>
#include <cctype>
#include <map>
#include <set>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

namespace fs = std::filesystem;

// What a command takes, learnt from its own parser: so a study knows every option that the command line knows.
struct Grammar {
  std::vector<std::string> positional;  // FILE, MODEL, ... in their order
  std::set<std::string> values;         // long options with a value
  std::set<std::string> flags;
  std::set<std::string> files;  // those of the values that name a file to read
};

const std::set<std::string> no_tasks = {"simulate", "run", "demo", "shapes", "help", "completion"};

std::map<std::string, Grammar> grammars() {
  std::map<std::string, Grammar> all;
  for (const CommandDescription& command : describe_commands()) {
    if (no_tasks.contains(command.name)) continue;
    Grammar& grammar = all[command.name];
    for (const ArgumentDescription& argument : command.arguments) {
      if (argument.is_positional) {
        grammar.positional.push_back(argument.names[0]);
        continue;
      }
      const std::string name = argument.names.back().substr(2);
      // What becomes of a result is the study's matter.
      if (name == "help" || name == "format" || name == "for-spreadsheet" || name == "decimal-comma" ||
          name == "table" || name == "output" || name == "title" || name == "equation" || name == "cell")
        continue;
      (argument.takes.empty() ? grammar.flags : grammar.values).insert(name);
      if (argument.is_file_read) grammar.files.insert(name);
    }
  }
  return all;
}

bool is_figure(const std::string& key) { return key == "figure" || key.starts_with("figure-"); }
bool draws(const std::string& key) { return is_figure(key) && key != "figure-sample"; }

// The key of a positional argument in a study.
std::string key_of(const std::string& positional) {
  static const std::map<std::string, std::string> keys = {{"FILE", "data"},
                                                          {"MODEL", "model"},
                                                          {"CANDIDATE", "candidates"},
                                                          {"RECORD", "record"},
                                                          {"QUANTITY", "quantities"}};
  const auto at = keys.find(positional);
  return at == keys.end() ? positional : at->second;
}

const std::vector<std::string> data_keys = {"file",     "x",         "y",          "u",      "alias",
                                            "unit",     "leave-out", "replicates", "kind",   "sample",
                                            "dilution", "event",     "trials",     "counts", "exposure"};

[[noreturn]] void fail(const Place& place, const std::string& message, const std::string& remedy,
                       ErrorCode code = ErrorCode::bad_argument) {
  throw Error({.code = code, .message = message, .subject = "study", .remedy = remedy, .place = place});
}

class Planner {
 public:
  explicit Planner(const Study& study)
      : study_(study), grammars_(grammars()), folder_(fs::path(study.source).parent_path()) {}

  [[nodiscard]] std::vector<Step> steps() const {
    for (const StudyTable& data : study_.data) {
      require_known_keys(data, data_keys, fmt::format("[data.{}]", data.name));
      if (data.value("file").empty())
        fail(data.place, fmt::format("[data.{}] has no file", data.name), "write file = \"table.csv\"");
    }
    std::vector<Step> steps;
    for (const StudyTable& task : study_.tasks) steps.push_back(step_of(task, steps));
    return steps;
  }

 private:
  [[nodiscard]] const StudyTable& data_called(const StudyEntry& entry) const {
    const auto at = std::find_if(study_.data.begin(), study_.data.end(), [&entry](const StudyTable& data) {
      return entry.values.size() == 1 && data.name == entry.values[0];
    });
    if (at != study_.data.end()) return *at;
    std::vector<std::string> names;
    for (const StudyTable& data : study_.data) names.push_back(data.name);
    const std::string nearest = entry.values.empty() ? "" : nearest_name(entry.values[0], names);
    fail(entry.place, fmt::format("there are no data '{}'", entry.values.empty() ? "" : entry.values[0]),
         nearest.empty() ? "describe them in a table [data.NAME]" : fmt::format("did you mean '{}'?", nearest));
  }

  [[nodiscard]] Step step_of(const StudyTable& task, const std::vector<Step>& earlier) const {
    const StudyEntry& command = *task.find("command");
    const auto at = command.values.size() == 1 ? grammars_.find(command.values[0]) : grammars_.end();
    if (at == grammars_.end()) {
      std::vector<std::string> names;
      for (const auto& [name, grammar] : grammars_) names.push_back(name);
      const std::string nearest = command.values.empty() ? "" : nearest_name(command.values[0], names);
      fail(command.place, fmt::format("there is no command '{}'", command.values.empty() ? "" : command.values[0]),
           nearest.empty() ? "write look, preview, fit, compare, predict, solve, derive, calibrate or quantify"
                           : fmt::format("did you mean '{}'?", nearest));
    }
    const Grammar& grammar = at->second;
    std::vector<std::string> known = {"command", "title", "note", "report"};
    for (const std::string& positional : grammar.positional) known.push_back(key_of(positional));
    known.insert(known.end(), grammar.values.begin(), grammar.values.end());
    known.insert(known.end(), grammar.flags.begin(), grammar.flags.end());
    require_known_keys(task, known, fmt::format("the command '{}'", at->first));

    Step step{.name = task.name, .arguments = {at->first}, .keeps_record = at->first != "look", .place = task.place};
    step.title = task.value("title");
    step.note = task.value("note");
    if (const StudyEntry* report = task.find("report")) {
      if (!report->is_boolean) fail(report->place, "'report' is true or false", "write false to keep it off the page");
      step.is_reported = report->values[0] == "true";
    }
    for (const std::string& positional : grammar.positional) take_positional(task, key_of(positional), earlier, step);
    for (const StudyEntry& entry : task.entries) take_option(entry, grammar, step);
    if (const StudyEntry* chosen = task.find("data")) take_common(data_called(*chosen).entries, task, grammar, step);
    take_common(study_.common, task, grammar, step);
    return step;
  }

  void take_positional(const StudyTable& task, const std::string& key, const std::vector<Step>& earlier,
                       Step& step) const {
    const StudyEntry* entry = task.find(key);
    if (entry == nullptr) {
      // A comparison of all shapes goes without, as does a test of hypotheses.
      if (key == "candidates" || key == "quantities") return;
      fail(task.place, fmt::format("the task '{}' needs '{}'", task.name, key), fmt::format("write {} = \"...\"", key));
    }
    if (key == "data") {
      step.data_file = data_called(*entry).value("file");
      std::error_code ignored;
      if (!fs::is_regular_file(folder_ / step.data_file, ignored))
        fail(data_called(*entry).find("file")->place,
             fmt::format("there is no file '{}'", (folder_ / step.data_file).string()),
             "paths are relative to the study file", ErrorCode::file_not_found);
      step.arguments.push_back(data_called(*entry).value("file"));
      return;
    }
    if (key == "record") {
      const bool known = entry->values.size() == 1 && std::any_of(earlier.begin(), earlier.end(), [&](const Step& s) {
                           return s.name == entry->values[0] && s.keeps_record;
                         });
      if (!known)
        fail(entry->place,
             fmt::format("no task before '{}' makes a record '{}'", task.name,
                         entry->values.empty() ? "" : entry->values[0]),
             "name a task that stands before this one");
      step.record_of = entry->values[0];
      step.arguments.push_back(record_mark);
      return;
    }
    for (const std::string& value : entry->values) step.arguments.push_back(value_of(*entry, value));
  }

  // A value stays a value: one that began as an option does would be one, and could name any file.
  [[nodiscard]] static std::string value_of(const StudyEntry& entry, const std::string& value) {
    const bool is_option = value.starts_with("--") || (value.size() > 1 && value[0] == '-' &&
                                                       std::isalpha(static_cast<unsigned char>(value[1])) != 0);
    if (is_option)
      fail(entry.place, fmt::format("'{}' begins as an option does, and is to be a value of '{}'", value, entry.key),
           "write the option as a key of its own: name = value");
    return value;
  }

  // A path of the study is relative to it, wherever the command runs, and stands in records as it is written.
  [[nodiscard]] std::string existing_file(const StudyEntry& entry, const std::string& value, Step& step) const {
    const fs::path file = folder_ / value;
    std::error_code ignored;
    if (!fs::is_regular_file(file, ignored))
      fail(entry.place, fmt::format("there is no file '{}'", file.string()), "paths are relative to the study file",
           ErrorCode::file_not_found);
    step.more_files.push_back(value);
    return value;
  }

  void take_option(const StudyEntry& entry, const Grammar& grammar, Step& step) const {
    if (draws(entry.key)) {
      if (!entry.is_boolean)
        fail(entry.place, fmt::format("'{}' is true or false here: the study names the file", entry.key), "write true");
      if (entry.values[0] == "true") step.figures.push_back(entry.key);
    } else if (grammar.flags.contains(entry.key)) {
      if (!entry.is_boolean) fail(entry.place, fmt::format("'{}' is true or false", entry.key), "write true");
      if (entry.values[0] == "true") step.arguments.push_back("--" + entry.key);
    } else if (grammar.values.contains(entry.key)) {
      for (const std::string& value : entry.values) {
        step.arguments.push_back("--" + entry.key);
        step.arguments.push_back(grammar.files.contains(entry.key) ? existing_file(entry, value, step)
                                                                   : value_of(entry, value));
      }
    }
  }

  // What the data's own table or the whole study says holds for every task that takes it and does not say otherwise.
  void take_common(const std::vector<StudyEntry>& entries, const StudyTable& task, const Grammar& grammar,
                   Step& step) const {
    for (const StudyEntry& entry : entries) {
      const bool is_known = grammar.values.contains(entry.key) || grammar.flags.contains(entry.key);
      if (entry.key == "file" || task.find(entry.key) != nullptr || !is_known) continue;
      take_option(entry, grammar, step);
    }
  }

  const Study& study_;
  std::map<std::string, Grammar> grammars_;
  fs::path folder_;
};

}  // namespace

std::vector<Step> steps_of(const Study& study) { return Planner(study).steps(); }

}  // namespace truecurve::app
