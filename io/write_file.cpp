// Writes a file whole or not at all.
#include <truecurve/base/error.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/io/unfinished.hpp>

#include <fstream>
#include <system_error>

#include <fmt/format.h>

namespace truecurve {

void write_file(const std::filesystem::path& file, std::string_view text) {
  const auto fail = [&file](const std::string& why) {
    throw Error({.code = ErrorCode::cannot_write,
                 .message = fmt::format("the file can't be written: {}", why),
                 .subject = file.string(),
                 .remedy = "check the folder, the permission and the space on the disk; nothing was left behind",
                 .place = {.file = file.string()}});
  };
  const Unfinished unfinished(file);
  std::ofstream stream(unfinished.path(), std::ios::binary);
  stream.write(text.data(), static_cast<std::streamsize>(text.size()));
  stream.close();
  if (!stream) {
    std::error_code ignored;
    fail(std::filesystem::is_directory(file.parent_path().empty() ? "." : file.parent_path(), ignored)
             ? "no permission or no space"
             : "there is no such folder");
  }
  if (const std::error_code code = unfinished.take_place()) fail(code.message());
}

}  // namespace truecurve
