// Any text as a study file: its tasks, or an Error with a place; no task's argument is an option that the study's keys
// do not name.
#include <truecurve/base/error.hpp>
#include <truecurve/io/study.hpp>

#include "../app/study_plan.hpp"

#include <cstdlib>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  try {
    const truecurve::Study study =
        truecurve::read_study_text(std::string_view(reinterpret_cast<const char*>(data), size), "demo/fuzz.toml");
    for (const truecurve::app::Step& step : truecurve::app::steps_of(study)) {
      if (step.name.empty() || step.arguments.empty()) std::abort();
      for (const std::string& word : step.arguments) {
        if (word.starts_with("--output") || word.starts_with("--figure=") || word.starts_with("--format")) std::abort();
      }
    }
  } catch (const truecurve::Error& error) {
    if (error.message().empty() || error.remedy().empty() || error.place().file.empty() ||
        error.code() == truecurve::ErrorCode::internal)
      std::abort();
  }
  return 0;
}
