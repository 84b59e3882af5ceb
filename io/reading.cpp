#include "reading.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>

#include "sha256.hpp"

#include <array>

namespace truecurve {

std::ifstream detail::open_to_read(const std::filesystem::path& file, const std::string& source) {
  std::error_code ignored;
  std::ifstream stream(file, std::ios::binary);
  if (!stream || std::filesystem::is_directory(file, ignored)) {
    throw Error({.code = ErrorCode::file_not_found,
                 .message = std::filesystem::is_directory(file, ignored) ? "this is a folder, not a file"
                            : std::filesystem::exists(file, ignored)     ? "the file cannot be opened for reading"
                                                                         : "there is no such file",
                 .subject = source,
                 .remedy = "check the name and the permission",
                 .place = {.file = source}});
  }
  return stream;
}

std::string checksum_of(const std::filesystem::path& file) {
  std::ifstream stream = detail::open_to_read(file, file.string());
  detail::Sha256 sum;
  std::array<char, 1 << 16> chunk{};
  while (stream.read(chunk.data(), chunk.size()) || stream.gcount() > 0)
    sum.add({chunk.data(), static_cast<std::size_t>(stream.gcount())});
  return sum.hexadecimal();
}

}  // namespace truecurve
