// A stream whose writes append to a text.
#include "memory_stream.hpp"

#include <cstddef>
#include <new>

#include <sys/types.h>

namespace truecurve::detail {

// The driver writes to a stream and closes it at its end.
std::FILE* MemoryStream::open() {
  const cookie_io_functions_t functions = {.read = nullptr,
                                           .write = [](void* into, const char* bytes, std::size_t count) -> ssize_t {
                                             static_cast<MemoryStream*>(into)->bytes_.append(bytes, count);
                                             return static_cast<ssize_t>(count);
                                           },
                                           .seek = nullptr,
                                           .close =
                                               [](void* of) {
                                                 static_cast<MemoryStream*>(of)->file_ = nullptr;
                                                 return 0;
                                               }};
  file_ = fopencookie(this, "w", functions);
  if (file_ == nullptr) throw std::bad_alloc();
  return file_;
}

void MemoryStream::close() {
  if (file_ != nullptr) std::fclose(file_);
}

}  // namespace truecurve::detail
