// The options of outputs, and their making.
#include "output.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "option_words.hpp"
#include "progress.hpp"
#include "terminal.hpp"

#include <algorithm>
#include <array>
#include <ostream>
#include <utility>

#include <fmt/format.h>

namespace truecurve::app {

bool is_table_file(const std::string& file) { return file.ends_with(".csv") || file.ends_with(".xlsx"); }

void write_table(const std::string& file, const Page& page, const CsvStyle& style) {
  if (!is_table_file(file)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' can't be written as a table", file),
                 .subject = "--table",
                 .value = file,
                 .remedy = "end it with .csv, or with .xlsx for a spreadsheet program"});
  }
  write_file(file, file.ends_with(".xlsx") ? xlsx_of(page) : csv_of(page, style));
}

void add_csv_style(Arguments& command, CsvStyle& style) {
  command.add_flag("--decimal-comma", style.decimal_comma, "CSV with decimal commas, and semicolons between the cells");
  command.add_flag("--for-spreadsheet", style.guards_formulas,
                   "CSV in which texts that a spreadsheet would compute as a formula get an apostrophe before them");
}

namespace {

// Forms in which a page is set for another program. A new one is an entry here.
struct PageForm {
  const char* word;
  const char* name;
  std::string (*set)(const Page&);
};
constexpr std::array<PageForm, 2> page_forms = {{{"markdown", "Markdown", markdown_of}, {"latex", "LaTeX", latex_of}}};

void choose_form(const std::string& word, OutputOptions& options) {
  options.format = word == "json" ? Format::json : word == "csv" ? Format::csv : Format::text;
  for (const PageForm& form : page_forms) {
    if (word != form.word) continue;
    options.format = Format::markup;
    options.markup = form.set;
  }
}

}  // namespace

void add_format(Arguments& command, OutputOptions& options, Kept kept) {
  std::vector<std::string> words = {"text", "csv"};
  if (kept == Kept::as_record) words.insert(words.begin() + 1, "json");
  std::string names = "text (default)";
  for (const PageForm& form : page_forms) {
    words.emplace_back(form.word);
    names += (&form == &page_forms.back() ? " or " : ", ") + std::string(form.name);
  }
  command
      .add(
          "--format", [&options](const std::string& word) { choose_form(word, options); },
          fmt::format("What standard output gets: the page as {}, {}its numbers as CSV", names,
                      kept == Kept::as_record ? "the record (json) or " : "or "))
      .one_of(words);
  command.add_flag("--brief", options.brief, "Only the answer, the cautions and the most important table");
  command
      .add("--table", options.table_files, "Write the numbers to this file: .csv, or .xlsx for a spreadsheet program")
      .writes();
  add_csv_style(command, options.csv);
}

namespace {

void require_csv_for_its_style(const OutputOptions& options) {
  const bool has_file = std::any_of(options.table_files.begin(), options.table_files.end(),
                                    [](const std::string& file) { return !file.ends_with(".xlsx"); });
  if (options.format == Format::csv || has_file) return;
  const char* const flag = options.csv.decimal_comma     ? "--decimal-comma"
                           : options.csv.guards_formulas ? "--for-spreadsheet"
                                                         : nullptr;
  if (flag == nullptr) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("{} is given, and the output is not CSV", flag),
               .subject = flag,
               .remedy = "add --format csv, or --table with a file that ends with .csv"});
}

}  // namespace

void add_output(Arguments& command, OutputOptions& options, const char* what) {
  add_format(command, options, Kept::as_record);
  command
      .add("--output", options.record_file,
           fmt::format("Write the {} as a record (JSON) to this file; - is standard output", what))
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

struct AxisOptions {
  const char* range;
  const char* label;
  const char* name;
};

void add_axis(Arguments& command, const Argument& figure, AxisLayout& axis, const AxisOptions& options) {
  command
      .add(
          options.range,
          [&axis, range = options.range](const std::string& text) {
            const auto [low, high] = range_of(text, range);
            axis.low = low;
            axis.high = high;
          },
          fmt::format("Ends of the {} axis in --figure; either may be omitted: 0..", options.name))
      .takes("LOW..HIGH")
      .needs(figure);
  command.add(options.label, axis.label, fmt::format("Label of the {} axis in --figure", options.name))
      .takes("TEXT")
      .needs(figure);
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
          "--size",
          [&options](const std::string& text) {
            const double font = options.layout.size.font;
            options.layout.size = size_of(text);
            options.layout.size.font = font;
          },
          "Width and height of --figure: 1280x800 pixels, or 160x100mm (default: 1280x800, of PDF A4 across)")
      .takes("WIDTHxHEIGHT")
      .needs(figure);
  command
      .add(
          "--font-size",
          [&options](const std::string& text) {
            options.layout.size.font = number_of(text, "--font-size");
            if (!(options.layout.size.font > 0)) {
              throw Error({.code = ErrorCode::bad_argument,
                           .message = fmt::format("--font-size '{}' is not a size", text),
                           .subject = "--font-size",
                           .value = text,
                           .remedy = "write a number of points above 0, such as 8"});
            }
          },
          "Size of the letters in --figure, in points (default: in proportion to the figure)")
      .takes("POINTS")
      .needs(figure);
  add_axis(command, figure, options.layout.x, {"--range-x", "--label-x", "x"});
  add_axis(command, figure, options.layout.y, {"--range-y", "--label-y", "y"});
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

void deliver(const Result& result, const OutputOptions& options, const Streams& streams) {
  require_csv_for_its_style(options);
  if (is_table_file(options.record_file)) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message =
             fmt::format("--output writes a record (JSON), and '{}' is the name of a table", options.record_file),
         .subject = "--output",
         .value = options.record_file,
         .remedy = fmt::format("write the numbers with --table {}, or name the record .json", options.record_file)});
  }
  const bool to_stream = options.record_file == "-" && streams.page == nullptr;
  if (to_stream)
    refuse_beside("--output -",
                  {{options.format != Format::text && options.format != Format::json, "--format"},
                   {!result.instead.empty(), "--equation"}},
                  "omit it: standard output gets the record; name a file to keep both");
  const bool wants_record = !options.record_file.empty() || options.format == Format::json;
  const std::string record = wants_record ? result.record() : "";
  const bool wants_page =
      streams.page != nullptr || (options.format != Format::json && !to_stream) || !options.table_files.empty();
  Page page = wants_page ? spelled_out(result.page(), option_words) : Page{};
  if (options.brief) page = in_brief(std::move(page));
  if (!options.record_file.empty() && !to_stream) write_file(options.record_file, record);
  for (const std::string& file : options.table_files) write_table(file, page, options.csv);
  if (streams.files != nullptr) streams.files->publish();
  end_progress(streams);
  if (streams.page != nullptr) {
    *streams.page = std::move(page);
    return;
  }
  if (to_stream) {
    streams.out << record;
    return;
  }
  if (!result.instead.empty()) {
    streams.out << result.instead;
    return;
  }
  switch (options.format) {
    case Format::text: show(streams, page); break;
    case Format::json: streams.out << record; break;
    case Format::csv: streams.out << csv_of(page, options.csv); break;
    case Format::markup: streams.out << options.markup(page); break;
  }
}

}  // namespace truecurve::app
