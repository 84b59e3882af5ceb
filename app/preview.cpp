// truecurve preview: the curve at its starts over the data; nothing is fitted.
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/report/fit_page.hpp>

#include "model_options.hpp"
#include "progress.hpp"

#include <memory>
#include <ostream>

namespace truecurve::app {
namespace {

struct PreviewCommand {
  DataOptions data;
  ModelOptions model;
  OutputOptions output;
};

int run_preview(const PreviewCommand& options, const Streams& streams) {
  const Task task = task_of(options.data, options.model, streams);
  say(streams, "finding starts");
  const Preview made = preview(task.model, task.observations, task.options);
  Drawing drawing(streams);
  drawing.to(options.output.figures,
             [&](const std::string& file) { draw_preview(made, task.observations, file, options.output.layout); });
  deliver({.page = [&] { return preview_page(made, task.observations); },
           .record = [&] { return preview_record(made, task.observations); }},
          options.output, streams);
  return drawing.told(0);
}

}  // namespace

Command add_preview(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<PreviewCommand>();
  Arguments command(parser, "preview",
                    "Draw a curve at given or proposed starting values over the data, without a fit");
  add_file(command, options->data);
  add_model(command, options->model);
  add_choice(command, options->data);
  add_counting(command, options->data);
  add_names(command, options->data);
  add_output(command, options->output, "curve");
  add_figure(command, options->output, "the curve");
  command.example("truecurve preview demo/pour_cooling.csv newton-cooling --x t --y T --figure start.png");
  return [options, streams] { return run_preview(*options, streams); };
}

}  // namespace truecurve::app
