// Bytes of a file as UTF-8 text: UTF-16 and gzip are undone, of a spreadsheet a sheet is taken and of JSON the rows,
// files of another kind are named.
#pragma once

#include <truecurve/io/csv.hpp>

#include "table_text.hpp"

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

namespace truecurve::detail {

class Decoder {
 public:
  /// `source` names the file in errors.
  Decoder(std::string source, CsvOptions options);
  ~Decoder();
  Decoder(const Decoder&) = delete;
  Decoder& operator=(const Decoder&) = delete;

  /// Appends the text of the next bytes; `is_last` where no more follow. What the first bytes of a file are decides how
  /// all are read. Throws Error: unsupported_file (a kind that is known and is no table), binary_file (compressed or
  /// encoded wrongly).
  void add(std::string_view bytes, bool is_last, std::string& text);

  /// Of a spreadsheet or of JSON, once all bytes are added: what was made a table of. The form is empty for any other
  /// file.
  [[nodiscard]] const TableText& table() const { return table_; }

 private:
  enum class Kind { unknown, utf8, utf16_low_first, utf16_high_first, archive, json };
  class Inflater;

  void recognise(std::string_view bytes);
  void add_plain(std::string_view bytes, bool is_last, std::string& text);
  void take(TableText table, std::string& text);
  void add_utf16(std::string_view bytes, bool is_last, std::string& text);

  std::string source_;
  CsvOptions options_;
  TableText table_{};
  bool begun_ = false;
  Kind kind_ = Kind::unknown;
  std::string rest_;  // bytes of a character that is not complete; of an archive and of JSON all of them
  std::unique_ptr<Inflater> inflater_;
};

}  // namespace truecurve::detail
