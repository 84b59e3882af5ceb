// truecurve run: a whole study from one file, its results in one folder, its report on one page.
#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/io/study.hpp>
#include <truecurve/report/renderers.hpp>
#include <truecurve/report/study_report.hpp>

#include "command.hpp"
#include "option_words.hpp"
#include "progress.hpp"
#include "study_plan.hpp"

#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <memory>
#include <set>
#include <sstream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

namespace fs = std::filesystem;

struct RunCommand {
  std::string study;
  std::string into;
  bool only_check = false;
};

std::string file_text(const fs::path& file) {
  std::ifstream stream(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(stream), {}};
}

std::string figure_name(const Step& step, const std::string& key, const char* ending) {
  return step.name + (key == "figure" ? "" : key.substr(std::string("figure").size())) + ending;
}

// The arguments with the record of an earlier task found in `folder`.
std::vector<std::string> with_record(const Step& step, const fs::path& folder) {
  std::vector<std::string> arguments = step.arguments;
  for (std::string& argument : arguments) {
    if (argument == record_mark) argument = (folder / (step.record_of + ".json")).string();
  }
  return arguments;
}

// Runs a command line and returns its page; throws what it complained about, with the task's place.
Page page_of(const Step& step, const std::vector<std::string>& arguments, const fs::path& folder) {
  std::istringstream in;
  std::ostringstream out;
  std::ostringstream error;
  Page page;
  const int code = run(arguments, {.in = in, .out = out, .error = error, .folder = folder, .page = &page});
  if (code == 0) return page;
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
               .remedy = "no result of the study was kept; correct the task and run it again",
               .place = step.place});
}

// Where the results are, seen from the study's folder: there the report's commands repeat what was done, wherever the
// study was called from.
fs::path shown_folder(const fs::path& study_folder, const fs::path& into) {
  std::error_code ignored;
  const fs::path from = fs::weakly_canonical(study_folder.empty() ? "." : study_folder, ignored);
  fs::path absolute = fs::weakly_canonical(into, ignored);
  if (!absolute.has_filename() && absolute.has_relative_path()) absolute = absolute.parent_path();  // "results/"
  const fs::path relative = absolute.lexically_relative(from);
  return relative.empty() || *relative.begin() == ".." ? absolute.filename() : relative;
}

ReportSection section_of(const Step& step, const Workshop& workshop, const fs::path& folder, const fs::path& into) {
  const fs::path made = fs::absolute(workshop.path());
  std::vector<std::string> arguments = with_record(step, made);
  std::vector<std::string> shown = with_record(step, into);
  if (step.keeps_record) {
    const std::string record = step.name + ".json";
    arguments.insert(arguments.end(), {"--output", (made / record).string()});
    shown.insert(shown.end(), {"--output", (into / record).string()});
  }
  for (const std::string& key : step.figures) {
    for (const char* ending : {".svg", ".png"})
      arguments.insert(arguments.end(), {"--" + key, (made / figure_name(step, key, ending)).string()});
    shown.insert(shown.end(), {"--" + key, (into / figure_name(step, key, ".svg")).string()});
  }
  ReportSection section{.name = step.name,
                        .title = step.title.empty() ? step.name : step.title,
                        .note = step.note,
                        .page = page_of(step, arguments, folder)};
  for (const std::string& key : step.figures)
    section.figures.push_back(file_text(workshop.path() / figure_name(step, key, ".svg")));
  section.command = "truecurve";
  for (const std::string& word : shown) section.command += " " + quoted(word);
  write_file(workshop.path() / (step.name + ".txt"), text_of(section.page));
  return section;
}

// The files of a task's results.
std::vector<std::string> result_names(const Step& step) {
  std::vector<std::string> names = {step.name + ".txt"};
  if (step.keeps_record) names.push_back(step.name + ".json");
  for (const std::string& key : step.figures) {
    for (const char* ending : {".svg", ".png"}) names.push_back(figure_name(step, key, ending));
  }
  return names;
}

// No two results have one name, and none takes the place of what the study reads.
void require_results_apart(const Study& study, const std::vector<Step>& steps, const fs::path& into) {
  std::map<std::string, std::string> taken = {{"report.html", "the report"}};
  for (const Step& step : steps) {
    for (const std::string& name : result_names(step)) {
      const auto [at, is_new] = taken.emplace(name, fmt::format("the task '{}'", step.name));
      if (!is_new)
        throw Error({.code = ErrorCode::bad_argument,
                     .message = fmt::format("a result of the task '{}' would be named {}, as one of {} is", step.name,
                                            name, at->second),
                     .subject = step.name,
                     .remedy = "rename the task",
                     .place = step.place});
    }
  }
  if (into.empty()) return;
  const fs::path folder = fs::path(study.source).parent_path();
  std::vector<fs::path> read = {study.source};
  for (const Step& step : steps) {
    if (!step.data_file.empty()) read.push_back(folder / step.data_file);
    for (const fs::path& file : step.more_files) read.push_back(folder / file);
  }
  for (const auto& [name, whose] : taken) {
    for (const fs::path& file : read) {
      if (is_same_file(into / name, file))
        throw Error(
            {.code = ErrorCode::bad_argument,
             .message = fmt::format("{} of {} would overwrite '{}', which the study reads", name, whose, file.string()),
             .subject = "--into",
             .value = into.string(),
             .remedy = "choose another folder for the results; nothing was written"});
    }
  }
}

// The study file and its data, each once.
std::vector<ReportSource> sources_of(const Study& study, const std::vector<Step>& steps) {
  const fs::path folder = fs::path(study.source).parent_path();
  std::vector<ReportSource> sources = {{fs::path(study.source).filename().string(), study.sha256}};
  std::set<fs::path> listed;
  for (const Step& step : steps) {
    std::vector<fs::path> files = step.more_files;
    if (!step.data_file.empty()) files.insert(files.begin(), step.data_file);
    for (const fs::path& file : files) {
      if (listed.insert(file).second) sources.push_back({file.string(), checksum_of(folder / file)});
    }
  }
  return sources;
}

int run_study(const RunCommand& options, const Streams& streams) {
  const Study study = read_study(options.study);
  const std::vector<Step> steps = steps_of(study);
  require_results_apart(study, steps, options.into);
  if (options.only_check) {
    streams.out << fmt::format("{}: {}, no problems found\n", options.study, plural(steps.size(), "task"));
    return 0;
  }
  if (options.into.empty())
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "no folder is named for the results",
                 .subject = "study",
                 .remedy = "add --into DIR, or --check to look at the study only"});
  for (const fs::path& folder : Workshop::left_behind(options.into))
    remark(streams,
           fmt::format("a run that was killed has left the folder '{}', which can be deleted", folder.string()));
  const Workshop workshop{fs::path(options.into)};
  const fs::path folder = fs::path(study.source).parent_path();
  const fs::path shown = shown_folder(folder, options.into);
  const std::string study_file = fs::path(study.source).filename().string();
  StudyReport report{.title = study.title.empty() ? fs::path(options.study).stem().string() : study.title,
                     .note = study.note,
                     .repeat = fmt::format("truecurve run {} --into {}", quoted(study_file), quoted(shown.string()))};
  Page answers{.title = report.title};
  for (std::size_t i = 0; i < steps.size(); ++i) {
    say(streams, fmt::format("task {} of {}: {}", i + 1, steps.size(), steps[i].name));
    ReportSection section = section_of(steps[i], workshop, folder, shown);
    answers.lead.list(fmt::format("{}: {}", steps[i].name, answer_of(section.page)));
    if (steps[i].is_reported) report.sections.push_back(std::move(section));
  }
  report.sources = sources_of(study, steps);
  write_file(workshop.path() / "report.html", study_html(report));
  if (streams.files != nullptr) streams.files->publish();
  workshop.hand_over();
  answers.lead.say(
      fmt::format("The results are in {}; open {}", options.into, (fs::path(options.into) / "report.html").string()));
  show(streams, answers);
  return 0;
}

}  // namespace

Command add_run(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<RunCommand>();
  Arguments command(parser, "run", "A whole study from a TOML file: records, figures and one report in a folder");
  command.add("STUDY", options->study, "Study file; docs/formats.md describes it").reads().required();
  command.add("--into", options->into, "Folder for the results; files of the same names are replaced").takes("DIR");
  command.add_flag("--check", options->only_check, "Look at the study file only; nothing is run or written");
  command.example("truecurve run demo/foundry.toml --check");
  return [options, streams] { return run_study(*options, streams); };
}

}  // namespace truecurve::app
