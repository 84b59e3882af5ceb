// A study as the command lines it stands for.
#pragma once

#include <truecurve/base/error.hpp>
#include <truecurve/io/study.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace truecurve::app {

/// One command line of the study.
struct Step {
  std::string name{};
  std::vector<std::string> arguments{};             ///< without outputs
  std::vector<std::string> figures{};               ///< keys of figures that are wanted
  std::string record_of{};                          ///< the task whose record is read, or empty
  std::filesystem::path data_file{};                ///< as the study writes it, relative to its folder
  std::vector<std::filesystem::path> more_files{};  ///< likewise: of blanks, of fortified samples, of points
  bool keeps_record = true;
  std::string title{};
  std::string note{};
  bool is_reported = true;
  Place place{};
};

/// Stands among the arguments for the record of an earlier task.
inline constexpr const char* record_mark = "\x01record";

/// The steps in their order, every key and file checked. Throws Error at the place in the study.
[[nodiscard]] std::vector<Step> steps_of(const Study& study);

}  // namespace truecurve::app
