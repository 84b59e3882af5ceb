// A candidate as it is written on the command line: a model and what is peculiar to it, between semicolons.
#pragma once

#include "model_options.hpp"

#include <string>
#include <vector>

namespace truecurve::app {

/// One candidate of a comparison.
struct CandidateText {
  std::string name;
  ModelOptions model;
  bool ignores_uncertainties = false;
};

/// "MODEL; linearized; spread proportional; start k=0.1; fix c=0; within k=0..; u none; name NAME" taken apart, what is
/// not said as in `common`; "polynomial(1..5)" gives five. Throws Error (bad_argument) that shows the word.
[[nodiscard]] std::vector<CandidateText> candidates_of(const std::string& text, const ModelOptions& common);

}  // namespace truecurve::app
