// Bytes of a file as UTF-8 text: UTF-16 and gzip are undone, files of another kind are named.
#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

namespace truecurve::detail {

class Decoder {
 public:
  /// `source` names the file in errors.
  explicit Decoder(std::string source);
  ~Decoder();
  Decoder(const Decoder&) = delete;
  Decoder& operator=(const Decoder&) = delete;

  /// Appends the text of the next bytes; `is_last` where no more follow. What the first bytes of a file are decides how
  /// all are read. Throws Error: unsupported_file (a kind that is known and is no table), binary_file (compressed or
  /// encoded wrongly).
  void add(std::string_view bytes, bool is_last, std::string& text);

 private:
  enum class Kind { unknown, utf8, utf16_low_first, utf16_high_first };
  class Inflater;

  void recognise(std::string_view bytes);
  void add_plain(std::string_view bytes, bool is_last, std::string& text);
  void add_utf16(std::string_view bytes, bool is_last, std::string& text);

  std::string source_;
  bool begun_ = false;
  Kind kind_ = Kind::unknown;
  std::string rest_;  // bytes of a character that is not complete
  std::unique_ptr<Inflater> inflater_;
};

}  // namespace truecurve::detail
