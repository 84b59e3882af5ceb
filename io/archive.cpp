#include "archive.hpp"

#include <truecurve/base/error.hpp>

#include <utility>

#include <fmt/format.h>
#include <zip.h>

namespace truecurve::detail {

struct Archive::Opened {
  zip_t* archive = nullptr;
  Opened() = default;
  Opened(const Opened&) = delete;
  Opened& operator=(const Opened&) = delete;
  ~Opened() {
    if (archive != nullptr) zip_discard(archive);
  }
};

Archive::Archive(std::string bytes, std::string source)
    : bytes_(std::move(bytes)), source_(std::move(source)), opened_(std::make_unique<Opened>()) {
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* const origin = zip_source_buffer_create(bytes_.data(), bytes_.size(), 0, &error);
  if (origin == nullptr) throw std::bad_alloc();
  opened_->archive = zip_open_from_source(origin, ZIP_RDONLY | ZIP_CHECKCONS, &error);
  const std::string reason = zip_error_strerror(&error);
  zip_error_fini(&error);
  if (opened_->archive != nullptr) return;
  zip_source_free(origin);
  fail(reason);
}

Archive::~Archive() = default;

void Archive::fail(const std::string& what) const {
  throw Error({.code = ErrorCode::binary_file,
               .message = fmt::format("the file is damaged: {}", what),
               .remedy = "copy it once more, or open it in a spreadsheet program and save it anew",
               .place = {.file = source_}});
}

bool Archive::has(const std::string& name) const { return zip_name_locate(opened_->archive, name.c_str(), 0) >= 0; }

std::string Archive::file(const std::string& name) const {
  zip_stat_t about;
  zip_stat_init(&about);
  if (zip_stat(opened_->archive, name.c_str(), 0, &about) != 0 || (about.valid & ZIP_STAT_SIZE) == 0)
    fail(fmt::format("it has no part '{}'", name));
  constexpr zip_uint64_t largest = 1U << 30U;
  if (about.size > largest) {
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = fmt::format("its part '{}' is larger than a gigabyte", name),
                 .remedy = "save the sheet as CSV and read that",
                 .place = {.file = source_}});
  }
  zip_file_t* const part = zip_fopen(opened_->archive, name.c_str(), 0);
  if (part == nullptr) fail(zip_error_strerror(zip_get_error(opened_->archive)));
  std::string bytes(about.size, '\0');
  const zip_int64_t got = zip_fread(part, bytes.data(), bytes.size());
  const std::string reason = zip_error_strerror(zip_file_get_error(part));
  zip_fclose(part);
  if (got < 0 || static_cast<zip_uint64_t>(got) != about.size) fail(reason);
  return bytes;
}

}  // namespace truecurve::detail
