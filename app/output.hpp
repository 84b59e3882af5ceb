// What becomes of a command's result: forms on standard output, a record, figures.
#pragma once

#include <truecurve/figure/layout.hpp>
#include <truecurve/report/page.hpp>
#include <truecurve/report/renderers.hpp>

#include "arguments.hpp"
#include "run.hpp"

#include <functional>
#include <string>
#include <vector>

namespace truecurve::app {

/// What standard output gets: the page set for the terminal, the record, or the page in another form.
enum class Format { text, json, csv, markup };

/// Whether a result can be kept as a record.
enum class Kept { as_record, not_at_all };

/// Files that one figure is drawn to, each in the format of its ending.
using FigureFiles = std::vector<std::string>;

/// The options that say what becomes of a result.
struct OutputOptions {
  Format format = Format::text;
  std::string (*markup)(const Page&) = nullptr;  ///< of Format::markup
  bool brief = false;                            ///< the page in brief
  CsvStyle csv{};                                ///< of Format::csv and of a table's file
  std::string record_file;
  std::vector<std::string> table_files;  ///< for the numbers of the page: .csv, .xlsx
  FigureFiles figures;
  FigureLayout layout{};  ///< of the figure
};

/// A file for the numbers of a page: .xlsx, or CSV in that style. Throws Error (bad_argument) for another ending.
void write_table(const std::string& file, const Page& page, const CsvStyle& style);
/// Whether a file's name has an ending that write_table() knows.
[[nodiscard]] bool is_table_file(const std::string& file);
/// --decimal-comma and --for-spreadsheet.
void add_csv_style(Arguments& command, CsvStyle& style);

/// --format and --table; json only of results that can be kept as a record.
void add_format(Arguments& command, OutputOptions& options, Kept kept);
/// --format and --output, which keeps `what` as a record.
void add_output(Arguments& command, OutputOptions& options, const char* what);

/// An option for a figure: its name, and what it draws.
Argument add_drawing(Arguments& command, const char* option, FigureFiles& files, const std::string& what);
/// --figure, which draws `what`, and --log-axis.
void add_figure(Arguments& command, OutputOptions& options, const char* what);

/// Draws figures so that no result is lost by them: one that can't be drawn is told of when the result is out.
class Drawing {
 public:
  explicit Drawing(const Streams& streams) : streams_(streams) {}

  /// Calls `draw` with each file. What is wrong with the words of the command or with the place to write to is thrown
  /// as it is, as is every Error where the command is a study's, which keeps all or nothing.
  void to(const FigureFiles& files, const std::function<void(const std::string& file)>& draw);

  /// A remark for each figure that is missing; the exit code, which is 5 in place of 0 if there is one.
  [[nodiscard]] int told(int exit_code) const;

 private:
  const Streams& streams_;
  std::vector<std::string> missing_;
};

/// The two forms of a result, each made only where it is wanted.
struct Result {
  std::function<Page()> page;
  std::function<std::string()> record;  ///< empty where there is none
  /// What standard output gets in the place of both; empty for nothing.
  std::string instead{};
};

/// Prints a page, in the width and the colours of the terminal.
void show(const Streams& streams, const Page& page);

/// Writes the record to --output and the form of --format to standard output (or hands the page over, where the command
/// is a study's); the file first, so that nothing is shown of a result that could not be kept.
void deliver(const Result& result, const OutputOptions& options, const Streams& streams);

}  // namespace truecurve::app
