// truecurve derive: quantities from the parameters of a record, each with its uncertainty.
#include <truecurve/assess/derived.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/report/estimate_page.hpp>

#include "command.hpp"

#include <memory>

namespace truecurve::app {
namespace {

struct DeriveCommand {
  std::string record;
  std::vector<std::string> quantities;
  std::vector<std::string> hypotheses;
  double level = 0.95;
  OutputOptions output;
};

int run_derive(const DeriveCommand& options, const Streams& streams) {
  if (options.quantities.empty() && options.hypotheses.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "no quantity is named",
                 .subject = "QUANTITY",
                 .remedy = "write \"t_half = tau*ln(2)\", or test --hypothesis \"p + q = -1\""});
  }
  const Estimate estimate = read_fit_record(read_text(options.record, streams), options.record);
  const Deductions deductions = deduce(estimate, options.level, options.quantities, options.hypotheses);
  deliver({.page = [&] { return derivation_page(estimate, deductions, options.level); },
           .record = [&] { return derivation_record(estimate, deductions, options.level); }},
          options.output, streams);
  return 0;
}

}  // namespace

Command add_derive(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<DeriveCommand>();
  Arguments command(
      parser, "derive",
      "Quantities from the parameters of a fit, with their uncertainties; hypotheses about the parameters");
  command.add("RECORD", options->record, "Record written by truecurve fit ... --output; - reads standard input")
      .reads()
      .required();
  command.add("QUANTITY", options->quantities,
              "A quantity from the parameters: \"t_half = tau*ln(2)\"; several are possible");
  command
      .add("--hypothesis", options->hypotheses,
           "An equation between parameters to be tested: \"p + q = -1\"; may be repeated")
      .takes("EQUATION");
  command.add_share("--level", options->level, "Level of the intervals, between 0 and 1");
  add_output(command, options->output, "result");
  command.example("truecurve derive demo/density.json \"slope_20 = b1 + 2*20*b2\"");
  return [options, streams] { return run_derive(*options, streams); };
}

}  // namespace truecurve::app
