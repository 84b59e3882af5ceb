// Evaluates a condition block by block over the columns it names.
#include <truecurve/base/error.hpp>
#include <truecurve/model/condition.hpp>
#include <truecurve/model/headers.hpp>

#include "parser.hpp"
#include "program.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve {

std::vector<std::size_t> rows_where(const Table& table, std::string_view condition) {
  detail::Graph graph;
  const detail::NodeId test = detail::parse_condition(with_columns_named(condition, table), graph);
  std::vector<detail::NameRole> roles;
  std::vector<const Column*> columns;
  for (const std::string& name : graph.names()) {
    roles.push_back({detail::NameRole::Kind::variable, static_cast<int>(columns.size())});
    columns.push_back(&table.column(name));
  }
  if (columns.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "the condition names no column",
                 .subject = "condition",
                 .value = std::string(condition),
                 .remedy = "write, for example, x > 50, or give row numbers: 3,7"});
  }
  const detail::Program program(graph, std::span(&test, 1), roles);
  detail::Program::Workspace work;
  std::vector<double> holds(detail::block_rows);
  std::vector<std::size_t> picked;
  for (std::size_t start = 0; start < table.rows(); start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, table.rows() - start);
    std::vector<const double*> at;
    for (const Column* column : columns) at.push_back(column->numbers.data() + start);
    double* const result[] = {holds.data()};
    program.run(at, rows, {}, result, work);
    for (std::size_t i = 0; i < rows; ++i) {
      const bool complete =
          std::all_of(at.begin(), at.end(), [i](const double* column) { return !std::isnan(column[i]); });
      if (complete && holds[i] != 0) picked.push_back(start + i + 1);
    }
  }
  return picked;
}

}  // namespace truecurve
