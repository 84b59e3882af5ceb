// The columns of readings.
#include "calibration_options.hpp"

namespace truecurve::app {

void add_columns(Arguments& command, ColumnOptions& options) {
  command.add("--replicates", options.replicates, "Several columns of signals, one per replicate, instead of --y")
      .takes("NAME,NAME,...");
  command
      .add("--kind", options.kind,
           "Column that says standard, blank, fortified, sample or control (default: the column kind, if any)")
      .takes("NAME");
  command.add("--sample", options.sample, "Column of sample names (default: the column sample, if any)").takes("NAME");
  command
      .add("--dilution", options.dilution,
           "Column of factors by which a read amount is multiplied (default: the column dilution, if any)")
      .takes("NAME");
}

std::vector<std::string> listed(const std::string& text) {
  std::vector<std::string> names;
  for (std::size_t start = 0; start <= text.size();) {
    const std::size_t end = std::min(text.find(',', start), text.size());
    const std::string part = text.substr(start, end - start);
    const auto first = part.find_first_not_of(' ');
    if (first != std::string::npos) names.push_back(part.substr(first, part.find_last_not_of(' ') - first + 1));
    start = end + 1;
  }
  return names;
}

std::string chosen_or_usual(const std::string& named, const char* usual, const Table& table) {
  if (!named.empty()) return named;
  return table.has_column(usual) ? usual : "";
}

}  // namespace truecurve::app
