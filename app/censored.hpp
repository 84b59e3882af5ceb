// Fits with limits among the responses: what truecurve fit --distribution does.
#pragma once

#include <truecurve/fit/censored.hpp>

#include "model_options.hpp"

#include <optional>
#include <string>
#include <vector>

namespace truecurve::app {

struct CensoredCommand {
  std::string distribution;
  std::string said_by;    ///< column of words
  std::string quantiles;  ///< "0.01,0.5"
  std::vector<std::string> places;
  FigureFiles probability_figures;
};

void add_censored(Arguments& command, CensoredCommand& options);

/// Whether any of them is given.
[[nodiscard]] bool is_asked_for(const CensoredCommand& options);

struct CensoredRequest {
  const CensoredCommand& censored;
  const DataOptions& data;
  const ModelOptions& model;
  const OutputOptions& output;
  double level;
  const std::vector<std::string>& derive;
  const std::vector<std::string>& hypotheses;
};

[[nodiscard]] int run_censored(const CensoredRequest& request, const Streams& streams);

/// The two options of it that compare has, where the distribution may be all of them.
void add_censored_comparison(Arguments& command, CensoredCommand& options);

/// Candidates with limits among the responses, by AICc.
struct CensoredWish {
  std::string name;
  ModelOptions model;
};
[[nodiscard]] int compare_censored(const std::vector<CensoredWish>& wanted, const CensoredCommand& censored,
                                   const DataOptions& data, const OutputOptions& output, const Streams& streams);

}  // namespace truecurve::app
