// Files that are read.
#pragma once

#include <filesystem>
#include <fstream>
#include <string>

namespace truecurve::detail {

/// The bytes of a file, which errors call `source`. Throws Error (file_not_found).
[[nodiscard]] std::ifstream open_to_read(const std::filesystem::path& file, const std::string& source);

}  // namespace truecurve::detail
