// A file that is none: its bytes stay in memory.
#pragma once

#include <cstdio>
#include <string>

namespace truecurve::detail {

/// What a drawing library writes as to a file, kept in memory: no fault of a disk can cut it.
class MemoryStream {
 public:
  /// Opened once; whoever writes may close it, or close() does.
  [[nodiscard]] std::FILE* open();
  void close();
  [[nodiscard]] const std::string& bytes() const { return bytes_; }

 private:
  std::string bytes_{};
  std::FILE* file_ = nullptr;
};

}  // namespace truecurve::detail
