// The files within a zip archive that is held in memory.
#pragma once

#include <memory>
#include <string>

namespace truecurve::detail {

class Archive {
 public:
  /// `source` names the file in errors. Throws Error (binary_file) where the bytes are no sound archive.
  Archive(std::string bytes, std::string source);
  ~Archive();
  Archive(const Archive&) = delete;
  Archive& operator=(const Archive&) = delete;

  [[nodiscard]] bool has(const std::string& name) const;
  /// The bytes of a file within. Throws Error: binary_file (none of that name, damaged, locked by a password),
  /// unsupported_file (larger than a gigabyte).
  [[nodiscard]] std::string file(const std::string& name) const;

 private:
  [[noreturn]] void fail(const std::string& what) const;

  struct Opened;
  std::string bytes_;
  std::string source_;
  std::unique_ptr<Opened> opened_;
};

}  // namespace truecurve::detail
