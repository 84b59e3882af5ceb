// Tasks side by side.
#pragma once

#include <cstddef>
#include <functional>
#include <utility>
#include <vector>

namespace truecurve::detail {

/// body(0) ... body(tasks - 1), side by side where there are processors for it; returns when all are done. What a body
/// throws is thrown again. The thread sanitizer does not see into TBB: for it, threads of the standard library do the
/// same.
void in_parallel(std::size_t tasks, const std::function<void(std::size_t)>& body);

/// Ascending.
void sort_in_parallel(std::vector<std::pair<double, std::ptrdiff_t>>& values);

}  // namespace truecurve::detail
