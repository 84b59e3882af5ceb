// The options of outputs, and their making.
#include "output.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "option_words.hpp"
#include "progress.hpp"
#include "terminal.hpp"

#include <ostream>
#include <utility>

#include <fmt/format.h>

namespace truecurve::app {

namespace {

// The other forms of a page, by the word of --format.
using FormOf = std::string (*)(const Page&);
struct Form {
  const char* word;
  FormOf of;
};
constexpr Form forms[] = {{"csv", csv_of}, {"markdown", markdown_of}, {"latex", latex_of}};

}  // namespace

void add_format(Arguments& command, OutputOptions& options, Kept kept) {
  std::vector<std::string> words = {"text"};
  if (kept == Kept::as_record) words.emplace_back("json");
  for (const Form& form : forms) words.emplace_back(form.word);
  command
      .add(
          "--format",
          [&options](const std::string& word) {
            options.format = word == "text" ? Format::text : word == "json" ? Format::json : Format::form;
            for (const Form& form : forms) {
              if (word == form.word) options.form = form.of;
            }
          },
          fmt::format("What standard output gets: the page as text (default), Markdown or LaTeX, {}its numbers as CSV",
                      kept == Kept::as_record ? "the record (json) or " : "or "))
      .one_of(words);
  command.add_flag("--brief", options.brief, "Only the answer, the cautions and the most important table");
  command.add_flag(
      "--for-spreadsheet", options.for_spreadsheet,
      "With --format csv: texts that a spreadsheet would compute as a formula get an apostrophe before them");
}

namespace {

// What standard output gets of a page.
FormOf form_of(const OutputOptions& options) {
  if (!options.for_spreadsheet) return options.form;
  if (options.format == Format::form && options.form == csv_of) return csv_for_spreadsheet;
  throw Error({.code = ErrorCode::bad_argument,
               .message = "--for-spreadsheet is given, and the output is not CSV",
               .subject = "--for-spreadsheet",
               .remedy = "add --format csv"});
}

}  // namespace

void add_output(Arguments& command, OutputOptions& options, const char* what) {
  add_format(command, options, Kept::as_record);
  command.add("--output", options.record_file, fmt::format("Write the {} as a record (JSON) to this file", what))
      .writes();
}

Argument add_drawing(Arguments& command, const char* option, FigureFiles& files, const std::string& what) {
  Argument figure = command.add(option, files, fmt::format("Draw {} to this file: .png, .svg or .pdf", what));
  return figure.writes();
}

namespace {

FigureSize size_of(const std::string& text) {
  FigureSize size;
  std::string rest = text;
  if (rest.ends_with("mm")) size.unit = LengthUnit::millimetre;
  if (rest.ends_with("mm") || rest.ends_with("px")) rest.resize(rest.size() - 2);
  const std::size_t between = rest.find('x');
  if (between != std::string::npos) {
    size.width = number_of(rest.substr(0, between), "--size");
    size.height = number_of(rest.substr(between + 1), "--size");
  }
  if (size.width > 0 && size.height > 0) return size;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("--size '{}' is not a size", text),
               .subject = "--size",
               .value = text,
               .remedy = "write width and height: 1280x800, or 160x100mm"});
}

}  // namespace

void add_figure(Arguments& command, OutputOptions& options, const char* what) {
  const Argument figure = add_drawing(command, "--figure", options.figures, what);
  command
      .add(
          "--log-axis",
          [&options](const std::string& text) {
            if (text != "y") options.layout.x.scale = AxisScale::logarithmic;
            if (text != "x") options.layout.y.scale = AxisScale::logarithmic;
          },
          "A logarithmic axis for --figure: of x, of y, or both")
      .one_of({"x", "y", "both"})
      .needs(figure);
  command.add("--title", options.layout.title, "Title of --figure").takes("TEXT").needs(figure);
  command
      .add(
          "--size", [&options](const std::string& text) { options.layout.size = size_of(text); },
          "Width and height of --figure: 1280x800 pixels, or 160x100mm (default: 1280x800, of PDF A4 across)")
      .takes("WIDTHxHEIGHT")
      .needs(figure);
  struct AxisOptions {
    const char* range;
    const char* label;
    const char* name;
    AxisLayout& axis;
  };
  for (const AxisOptions& one : {AxisOptions{"--range-x", "--label-x", "x", options.layout.x},
                                 AxisOptions{"--range-y", "--label-y", "y", options.layout.y}}) {
    AxisLayout& axis = one.axis;
    const char* const range = one.range;
    command
        .add(
            range,
            [&axis, range](const std::string& text) {
              const auto [low, high] = range_of(text, range);
              axis.low = low;
              axis.high = high;
            },
            fmt::format("Where the {} axis of --figure begins and ends; either end may be omitted: 0..", one.name))
        .takes("LOW..HIGH")
        .needs(figure);
    command.add(one.label, axis.label, fmt::format("What stands beside the {} axis of --figure", one.name))
        .takes("TEXT")
        .needs(figure);
  }
}

namespace {

// What is wrong with the words of the command, or with the place to write to, at which the record goes, too.
bool keeps_all_or_nothing(ErrorCode code) {
  return code == ErrorCode::bad_argument || code == ErrorCode::unknown_name || code == ErrorCode::cannot_write;
}

}  // namespace

void Drawing::to(const FigureFiles& files, const std::function<void(const std::string& file)>& draw) {
  if (files.empty()) return;
  say(streams_, "drawing");
  for (const std::string& file : files) {
    try {
      draw(file);
    } catch (const Error& error) {
      if (keeps_all_or_nothing(error.code()) || streams_.page != nullptr) throw;
      missing_.push_back(fmt::format("{} is not drawn: {}", file, text_of(error.details(), option_words)));
    }
  }
}

int Drawing::told(int exit_code) const {
  for (const std::string& text : missing_) remark(streams_, text);
  return missing_.empty() || exit_code != 0 ? exit_code : 5;
}

void show(const Streams& streams, const Page& page) {
  end_progress(streams);
  streams.out << text_of(page, text_style(streams.terminal));
}

void deliver(const Result& result, const OutputOptions& options, Streams streams) {
  const FormOf form = form_of(options);
  const bool wants_record = !options.record_file.empty() || options.format == Format::json;
  const std::string record = wants_record ? result.record() : "";
  const bool wants_page = streams.page != nullptr || options.format != Format::json;
  Page page = wants_page ? spelled_out(result.page(), option_words) : Page{};
  if (options.brief) page = in_brief(std::move(page));
  if (!options.record_file.empty()) write_file(options.record_file, record);
  if (streams.files != nullptr) streams.files->publish();
  end_progress(streams);
  if (streams.page != nullptr) {
    *streams.page = std::move(page);
    return;
  }
  if (!result.instead.empty()) {
    streams.out << result.instead;
    return;
  }
  switch (options.format) {
    case Format::text: show(streams, page); break;
    case Format::json: streams.out << record; break;
    case Format::form: streams.out << form(page); break;
  }
}

}  // namespace truecurve::app
