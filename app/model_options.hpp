// The options that say which model is meant and how its fit begins, the same in every command that has a model.
#pragma once

#include <truecurve/fit/options.hpp>
#include <truecurve/model/shapes.hpp>

#include "command.hpp"

#include <string>
#include <vector>

namespace truecurve::app {

struct ModelOptions {
  std::string model;
  Route route = Route::direct;
  std::vector<std::string> starts;
  std::vector<std::string> fixed;
  std::vector<std::string> within;
  int most_evaluations = FitOptions().most_evaluations;
  std::string spread;
  UncertaintyBasis uncertainty = UncertaintyBasis::automatic;
  bool events_as_numbers = false;
  bool is_one_of_several = false;  ///< a candidate: --x and --y may be meant for the others
};

/// "K=0..10", "K=0..", "K=..10"; throws Error (bad_argument).
[[nodiscard]] Within within_of(const std::string& text);

/// direct or linearized; throws Error (bad_argument).
[[nodiscard]] Route route_of(const std::string& text);

/// MODEL and --route, --start, --fix, --within.
void add_model(Arguments& command, ModelOptions& options);
/// --uncertainty and --spread.
void add_scatter(Arguments& command, ModelOptions& options);

/// What a command with a table and a model works on.
struct Task {
  Model model;
  Observations observations;
  FitOptions options;
};

/// The model that is meant, and which columns of the table it takes.
struct ModelAndColumns {
  Model model;
  Choice columns;
};
[[nodiscard]] ModelAndColumns model_and_columns(const DataOptions& data, const ModelOptions& model, Table& table,
                                                const Streams& streams);
[[nodiscard]] std::vector<Start> starts_of(const ModelOptions& options);
[[nodiscard]] std::vector<FixedParameter> fixed_of(const ModelOptions& options);

/// Reads the table and takes all options apart. Throws Error that names the option, the column or the row.
[[nodiscard]] Task task_of(const DataOptions& data, const ModelOptions& model, const Streams& streams);

/// The same with a table that was read already; a column whose header is no plain name gets an alias there.
[[nodiscard]] Task task_of(const DataOptions& data, const ModelOptions& model, Table& table, const Streams& streams);

}  // namespace truecurve::app
