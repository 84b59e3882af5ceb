// truecurve run: a whole study from one file, its results in one folder, its report on one page.
#include <truecurve/base/error.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/io/study.hpp>
#include <truecurve/io/unfinished.hpp>
#include <truecurve/report/study_report.hpp>

#include "command.hpp"
#include "progress.hpp"
#include "study_summary.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <memory>
#include <ostream>
#include <set>
#include <sstream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

namespace fs = std::filesystem;

struct Options {
  std::string study;
  std::string into;
  bool only_check = false;
};

// What a command takes, learnt from its own parser: so a study knows every option that the command line knows.
struct Grammar {
  std::vector<std::string> positional;  // FILE, MODEL, ... in their order
  std::set<std::string> values;         // long options with a value
  std::set<std::string> flags;
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
      if (name == "help" || name == "format" || name == "output") continue;
      (argument.takes.empty() ? grammar.flags : grammar.values).insert(name);
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

// One command line of the study.
struct Step {
  std::string name{};
  std::vector<std::string> arguments{};  // without outputs
  std::vector<std::string> figures{};    // keys of figures that are wanted
  std::string record_of{};               // the task whose record is read, or empty
  fs::path data_file{};
  std::vector<fs::path> more_files{};  // of blanks, of fortified samples, of points
  bool keeps_record = true;
  std::string title{};
  std::string note{};
  bool is_reported = true;
  Place place{};
};

// Options that name a table beside the data.
bool reads_a_file(const std::string& key) { return key == "blanks" || key == "fortified" || key == "at-file"; }

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
    const auto at = std::find_if(study_.data.begin(), study_.data.end(),
                                 [&entry](const StudyTable& data) { return data.name == entry.values[0]; });
    if (entry.values.size() == 1 && at != study_.data.end()) return *at;
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
      step.data_file = folder_ / data_called(*entry).value("file");
      std::error_code ignored;
      if (!fs::is_regular_file(step.data_file, ignored))
        fail(data_called(*entry).find("file")->place, fmt::format("there is no file '{}'", step.data_file.string()),
             "paths are relative to the study file", ErrorCode::file_not_found);
      step.arguments.push_back(step.data_file.string());
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
    step.arguments.insert(step.arguments.end(), entry->values.begin(), entry->values.end());
  }

  // A path of the study is relative to it, wherever the command runs.
  [[nodiscard]] std::string existing_file(const StudyEntry& entry, const std::string& value, Step& step) const {
    const fs::path file = folder_ / value;
    std::error_code ignored;
    if (!fs::is_regular_file(file, ignored))
      fail(entry.place, fmt::format("there is no file '{}'", file.string()), "paths are relative to the study file",
           ErrorCode::file_not_found);
    step.more_files.push_back(file);
    return file.string();
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
        step.arguments.push_back(reads_a_file(entry.key) ? existing_file(entry, value, step) : value);
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

 public:
  static constexpr const char* record_mark = "\x01record";
};

// A folder that goes away with what is in it unless everything went well.
class Workshop {
 public:
  explicit Workshop(const fs::path& into) : into_(into), folder_(into) {
    std::error_code code;
    fs::create_directories(folder_.path(), code);
    if (code) cannot_write(code.message());
  }

  [[nodiscard]] fs::path operator/(const std::string& name) const { return folder_.path() / name; }

  /// Every file takes the place of its like; other files of the folder stay.
  void hand_over() const {
    std::error_code code;
    fs::create_directories(into_, code);
    if (code) cannot_write(code.message());
    for (const fs::directory_entry& file : fs::directory_iterator(folder_.path())) {
      fs::rename(file.path(), into_ / file.path().filename(), code);
      if (code) cannot_write(code.message());
    }
  }

 private:
  [[noreturn]] void cannot_write(const std::string& why) const {
    throw Error({.code = ErrorCode::cannot_write,
                 .message = fmt::format("the results can't be written: {}", why),
                 .subject = into_.string(),
                 .remedy = "check the folder, the permission and the space on the disk",
                 .place = {.file = into_.string()}});
  }

  fs::path into_;
  Unfinished folder_;
};

std::string file_text(const fs::path& file) {
  std::ifstream stream(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(stream), {}};
}

std::string quoted(const std::string& word) {
  const bool plain = !word.empty() && word.find_first_not_of(
                                          "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-./=,%:+") ==
                                          std::string::npos;
  return plain ? word : '"' + word + '"';
}

std::string figure_name(const Step& step, const std::string& key, const char* ending) {
  return step.name + (key == "figure" ? "" : key.substr(std::string("figure").size())) + ending;
}

// The arguments with the record of an earlier task found in `folder`.
std::vector<std::string> with_record(const Step& step, const fs::path& folder) {
  std::vector<std::string> arguments = step.arguments;
  for (std::string& argument : arguments) {
    if (argument == Planner::record_mark) argument = (folder / (step.record_of + ".json")).string();
  }
  return arguments;
}

// Runs a command line and returns what it printed; throws what it complained about, with the task's place.
std::string output_of(const Step& step, const std::vector<std::string>& arguments) {
  std::istringstream in;
  std::ostringstream out;
  std::ostringstream error;
  const int code = run(arguments, {in, out, error});
  if (code == 0) return out.str();
  static const std::map<int, ErrorCode> codes = {{2, ErrorCode::bad_argument},
                                                 {3, ErrorCode::unsuitable_row},
                                                 {4, ErrorCode::not_finite},
                                                 {5, ErrorCode::cannot_write}};
  std::string message = error.str();
  if (message.starts_with("truecurve: ")) message.erase(0, std::string("truecurve: ").size());
  while (message.ends_with('\n')) message.pop_back();
  const auto at = codes.find(code);
  throw Error({.code = at == codes.end() ? ErrorCode::internal : at->second,
               .message = fmt::format("the task '{}' failed: {}", step.name, message),
               .subject = step.name,
               .remedy = "no result of the study was kept; mend the task and run it again",
               .place = step.place});
}

ReportSection section_of(const Step& step, const Workshop& workshop, const fs::path& into) {
  std::vector<std::string> arguments = with_record(step, workshop / "");
  std::vector<std::string> shown = with_record(step, into);
  const std::string record_name = step.name + ".json";
  if (step.keeps_record) {
    arguments.insert(arguments.end(), {"--output", (workshop / record_name).string()});
    shown.insert(shown.end(), {"--output", (into / record_name).string()});
  }
  std::vector<std::string> again = with_record(step, workshop / "");
  for (const std::string& key : step.figures) {
    arguments.insert(arguments.end(), {"--" + key, (workshop / figure_name(step, key, ".svg")).string()});
    shown.insert(shown.end(), {"--" + key, (into / figure_name(step, key, ".svg")).string()});
    again.insert(again.end(), {"--" + key, (workshop / figure_name(step, key, ".png")).string()});
  }
  const std::string text = output_of(step, arguments);
  if (!step.figures.empty()) (void)output_of(step, again);
  ReportSection section = section_from(step.keeps_record ? file_text(workshop / record_name) : "", text);
  section.name = step.name;
  section.title = step.title.empty() ? step.name : step.title;
  section.note = step.note;
  for (const std::string& key : step.figures)
    section.figures.push_back(file_text(workshop / figure_name(step, key, ".svg")));
  section.command = "truecurve";
  for (const std::string& word : shown) section.command += " " + quoted(word);
  write_file(workshop / (step.name + ".txt"), section.text);
  return section;
}

int run_study(const Options& options, Streams streams) {
  const Study study = read_study(options.study);
  const std::vector<Step> steps = Planner(study).steps();
  if (options.only_check) {
    streams.out << fmt::format("{}: {} task{}, nothing to complain about\n", options.study, steps.size(),
                               steps.size() == 1 ? "" : "s");
    return 0;
  }
  if (options.into.empty())
    fail({}, "no folder is named for the results", "add --into DIR, or --check to look at the study only");
  const Workshop workshop{fs::path(options.into)};
  StudyReport report{.title = study.title.empty() ? fs::path(options.study).stem().string() : study.title,
                     .note = study.note,
                     .repeat = fmt::format("truecurve run {} --into {}", quoted(options.study), quoted(options.into))};
  report.sources.push_back({study.source, study.sha256});
  std::set<fs::path> listed;
  std::string answers;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const Step& step = steps[i];
    say(streams, fmt::format("task {} of {}: {}", i + 1, steps.size(), step.name));
    ReportSection section = section_of(step, workshop, options.into);
    answers += fmt::format("  {}: {}\n", step.name, section.answer);
    if (step.is_reported) report.sections.push_back(std::move(section));
    std::vector<fs::path> files = step.more_files;
    if (!step.data_file.empty()) files.insert(files.begin(), step.data_file);
    for (const fs::path& file : files) {
      if (listed.insert(file).second) report.sources.push_back({file.string(), read_csv(file).source().sha256});
    }
  }
  write_file(workshop / "report.html", study_html(report));
  workshop.hand_over();
  show(streams, report.title + "\n\n" + answers +
                    fmt::format("\nEverything is in {}; begin with {}\n", options.into,
                                (fs::path(options.into) / "report.html").string()));
  return 0;
}

}  // namespace

Command add_run(CLI::App& parser, Streams streams) {
  auto options = std::make_shared<Options>();
  Arguments command(parser, "run", "A whole study from a TOML file: records, figures and one report in a folder");
  command.add("STUDY", options->study, "Study file; docs/formats.md describes it").required();
  command.add("--into", options->into, "Folder for the results; files of the same names are replaced").takes("DIR");
  command.add_flag("--check", options->only_check, "Look at the study file only; nothing is run or written");
  command.example("truecurve run demo/foundry.toml --check");
  return [options, streams] { return run_study(*options, streams); };
}

}  // namespace truecurve::app
