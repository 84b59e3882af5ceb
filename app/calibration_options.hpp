// What calibrate and quantify have in common: the columns of readings.
#pragma once

#include <truecurve/calibrate/readings.hpp>

#include "command.hpp"

#include <string>
#include <vector>

namespace truecurve::app {

struct ColumnOptions {
  std::string replicates;
  std::string kind;
  std::string sample;
  std::string dilution;
};

/// --replicates, --kind, --sample, --dilution.
void add_columns(Arguments& command, ColumnOptions& options);

/// "a,b , c" as three names.
[[nodiscard]] std::vector<std::string> listed(const std::string& text);

/// The named column, or the one called `usual` where the table has it, or none.
[[nodiscard]] std::string chosen_or_usual(const std::string& named, const char* usual, const Table& table);

}  // namespace truecurve::app
