// Recognises what a file is by its first bytes, and turns it into text.
#include "decoder.hpp"

#include <truecurve/base/error.hpp>

#include "json_table.hpp"
#include "sheet_text.hpp"

#include <array>
#include <utility>

#include <fmt/format.h>
#include <utf8proc.h>
#include <zlib.h>

namespace truecurve::detail {
namespace {

struct FileKind {
  std::string_view begins;
  const char* what;
  const char* instead;
};
const char* const as_csv = "export the table as CSV text and read that";
const char* const from_spreadsheet = "open it in a spreadsheet program, save the sheet as CSV and read that";
const std::array<FileKind, 11> kinds = {{
    {"\x89HDF\r\n\x1A\n", "an HDF5 file", "export the data set as CSV text and read that"},
    {"CDF\x01", "a NetCDF file", as_csv},
    {"CDF\x02", "a NetCDF file", as_csv},
    {"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", "an old spreadsheet (.xls), or one with a password", from_spreadsheet},
    {"SQLite format 3", "an SQLite database", as_csv},
    {"%PDF-", "a PDF document", "ask for the table itself, as CSV"},
    {"\x89PNG", "a picture (PNG)", "read the numbers, not their picture"},
    {"\xFF\xD8\xFF", "a picture (JPEG)", "read the numbers, not their picture"},
    {"GIF8", "a picture (GIF)", "read the numbers, not their picture"},
    {"BZh", "a file compressed by bzip2", "decompress it first"},
    {"\xFD"
     "7zXZ",
     "a file compressed by xz", "decompress it first"},
}};

std::string_view without_mark(std::string_view bytes) {
  if (bytes.starts_with("\xEF\xBB\xBF")) bytes.remove_prefix(3);
  return bytes;
}

}  // namespace

// One gzip file (RFC 1952), or several one after the other.
class Decoder::Inflater {
 public:
  Inflater() {
    constexpr int gzip_window = 16 + MAX_WBITS;
    if (inflateInit2(&stream_, gzip_window) != Z_OK) throw std::bad_alloc();
  }
  ~Inflater() { (void)inflateEnd(&stream_); }
  Inflater(const Inflater&) = delete;
  Inflater& operator=(const Inflater&) = delete;

  // Returns false where the bytes are damaged.
  bool add(std::string_view bytes, std::string& out) {
    // zlib's interface is older than const.
    stream_.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data()));
    stream_.avail_in = static_cast<uInt>(bytes.size());
    std::array<char, 1 << 16> made{};
    while (stream_.avail_in > 0) {
      if (ended_) {
        if (inflateReset(&stream_) != Z_OK) return false;
        ended_ = false;
      }
      do {
        stream_.next_out = reinterpret_cast<Bytef*>(made.data());
        stream_.avail_out = static_cast<uInt>(made.size());
        const int code = inflate(&stream_, Z_NO_FLUSH);
        if (code != Z_OK && code != Z_STREAM_END && code != Z_BUF_ERROR) return false;
        out.append(made.data(), made.size() - stream_.avail_out);
        ended_ = code == Z_STREAM_END;
      } while (!ended_ && stream_.avail_out == 0);
    }
    return true;
  }

  [[nodiscard]] bool has_ended() const { return ended_; }

 private:
  z_stream stream_{};
  bool ended_ = false;
};

Decoder::Decoder(std::string source, CsvOptions options) : source_(std::move(source)), options_(std::move(options)) {}
Decoder::~Decoder() = default;

void Decoder::recognise(std::string_view bytes) {
  for (const FileKind& kind : kinds) {
    if (!bytes.starts_with(kind.begins)) continue;
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = fmt::format("this is {}, not a table in text", kind.what),
                 .remedy = kind.instead,
                 .place = {.file = source_}});
  }
  if (bytes.starts_with("PK\x03\x04")) {
    kind_ = Kind::archive;
    return;
  }
  if (!options_.sheet.empty() || !options_.cells.empty()) {
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = fmt::format("this is not a spreadsheet: it has no {}",
                                        options_.sheet.empty() ? "cells to choose" : "sheets"),
                 .remedy = "omit the choice, or give the file as .xlsx or .ods",
                 .place = {.file = source_}});
  }
  if (bytes.starts_with("\x1F\x8B")) inflater_ = std::make_unique<Inflater>();
}

void Decoder::add(std::string_view bytes, bool is_last, std::string& text) {
  if (!begun_) recognise(bytes);
  begun_ = true;
  if (kind_ == Kind::archive) {
    rest_ += bytes;
    if (!is_last) return;
    return take(sheet_text(std::move(rest_), source_, options_), text);
  }
  if (inflater_ == nullptr) return add_plain(bytes, is_last, text);
  std::string inflated;
  const bool sound = inflater_->add(bytes, inflated);
  if (!sound || (is_last && !inflater_->has_ended())) {
    throw Error({.code = ErrorCode::binary_file,
                 .message = sound ? "the compressed file ends too early" : "the compressed file is damaged",
                 .remedy = "copy it once more, or decompress it and see what is left",
                 .place = {.file = source_}});
  }
  add_plain(inflated, is_last, text);
}

void Decoder::take(TableText table, std::string& text) {
  table_ = std::move(table);
  text += std::exchange(table_.text, {});
}

void Decoder::add_plain(std::string_view bytes, bool is_last, std::string& text) {
  if (kind_ == Kind::unknown && !bytes.empty()) {
    kind_ = bytes.starts_with("\xFF\xFE")         ? Kind::utf16_low_first
            : bytes.starts_with("\xFE\xFF")       ? Kind::utf16_high_first
            : begins_as_json(without_mark(bytes)) ? Kind::json
                                                  : Kind::utf8;
    if (kind_ == Kind::utf16_low_first || kind_ == Kind::utf16_high_first) bytes.remove_prefix(2);
    if (kind_ == Kind::json) bytes = without_mark(bytes);
    if (kind_ == Kind::json && options_.skipped_lines > 0) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = "lines of JSON can't be skipped: every object is a row",
                   .subject = "skipped lines",
                   .remedy = "leave rows out by their numbers",
                   .place = {.file = source_}});
    }
  }
  if (kind_ == Kind::json) {
    rest_ += bytes;
    if (is_last) take(json_table(rest_, source_), text);
    return;
  }
  if (kind_ == Kind::utf16_low_first || kind_ == Kind::utf16_high_first) return add_utf16(bytes, is_last, text);
  text += bytes;
}

void Decoder::add_utf16(std::string_view bytes, bool is_last, std::string& text) {
  rest_ += bytes;
  const auto unit = [this](std::size_t at) {
    const auto first = static_cast<unsigned char>(rest_[at]);
    const auto second = static_cast<unsigned char>(rest_[at + 1]);
    return static_cast<utf8proc_int32_t>(kind_ == Kind::utf16_low_first ? first | second << 8 : first << 8 | second);
  };
  std::size_t at = 0;
  while (at + 2 <= rest_.size()) {
    utf8proc_int32_t character = unit(at);
    std::size_t size = 2;
    // Two halves make a character beyond the first 65,536 (Unicode, 3.9).
    if (character >= 0xD800 && character < 0xDC00) {
      if (at + 4 > rest_.size() && !is_last) break;
      const utf8proc_int32_t low = at + 4 <= rest_.size() ? unit(at + 2) : 0;
      const bool is_pair = low >= 0xDC00 && low < 0xE000;
      character = is_pair ? 0x10000 + ((character - 0xD800) << 10) + (low - 0xDC00) : 0xFFFD;
      if (is_pair) size = 4;
    } else if (character >= 0xDC00 && character < 0xE000) {
      character = 0xFFFD;
    }
    std::array<utf8proc_uint8_t, 4> encoded{};
    const auto length = utf8proc_encode_char(character, encoded.data());
    text.append(reinterpret_cast<const char*>(encoded.data()), static_cast<std::size_t>(length));
    at += size;
  }
  rest_.erase(0, at);
  if (is_last && !rest_.empty()) {
    throw Error({.code = ErrorCode::binary_file,
                 .message = "the text in UTF-16 ends within a character",
                 .remedy = "copy the file once more, or save it as CSV in UTF-8",
                 .place = {.file = source_}});
  }
}

}  // namespace truecurve::detail
