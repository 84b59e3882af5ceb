// The options of outputs, and their making.
#include "output.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/report/renderers.hpp>

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

void add_figure(Arguments& command, OutputOptions& options, const char* what) {
  const Argument figure = add_drawing(command, "--figure", options.figures, what);
  command
      .add(
          "--log-axis",
          [&options](const std::string& text) {
            if (text != "y") options.axes.x = AxisScale::logarithmic;
            if (text != "x") options.axes.y = AxisScale::logarithmic;
          },
          "A logarithmic axis for --figure: of x, of y, or both")
      .one_of({"x", "y", "both"})
      .needs(figure);
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
  if (!options.record_file.empty()) write_file(options.record_file, record);
  if (streams.files != nullptr) streams.files->publish();
  end_progress(streams);
  if (streams.page != nullptr) {
    *streams.page = std::move(page);
    return;
  }
  switch (options.format) {
    case Format::text: show(streams, page); break;
    case Format::json: streams.out << record; break;
    case Format::form: streams.out << form(page); break;
  }
}

}  // namespace truecurve::app
