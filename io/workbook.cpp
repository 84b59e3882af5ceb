#include "workbook.hpp"

#include <truecurve/base/error.hpp>

#include <charconv>
#include <limits>
#include <string_view>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {

std::string_view local_name(const pugi::xml_node& node) {
  const std::string_view name = node.name();
  const auto colon = name.find(':');
  return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

const char* attribute(const pugi::xml_node& node, std::string_view name) {
  for (const pugi::xml_attribute& at : node.attributes()) {
    std::string_view here = at.name();
    if (const auto colon = here.find(':'); colon != std::string_view::npos) here.remove_prefix(colon + 1);
    if (here == name) return at.value();
  }
  return "";
}

void each_child(const pugi::xml_node& node, std::string_view name, const std::function<void(pugi::xml_node)>& action) {
  for (const pugi::xml_node& at : node.children()) {
    if (local_name(at) == name) action(at);
  }
}

pugi::xml_node child(const pugi::xml_node& node, std::string_view name) {
  for (const pugi::xml_node& at : node.children()) {
    if (local_name(at) == name) return at;
  }
  return {};
}

void load_xml(pugi::xml_document& document, const Archive& archive, const std::string& part,
              const std::string& source) {
  const std::string text = archive.file(part);
  const pugi::xml_parse_result result =
      document.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_ws_pcdata_single);
  if (result) return;
  throw Error({.code = ErrorCode::binary_file,
               .message = fmt::format("the part '{}' of the spreadsheet can't be read: {} at byte {}", part,
                                      result.description(), result.offset),
               .remedy = "copy the file once more, open it without a password, or save the sheet as CSV",
               .place = {.file = source}});
}

std::uint32_t whole_number(std::string_view text) {
  std::uint32_t number = 0;
  const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), number);
  return problem == std::errc::result_out_of_range ? std::numeric_limits<std::uint32_t>::max() : number;
}

std::string cell_name(std::uint32_t row, std::uint32_t column) {
  std::string letters;
  for (std::uint32_t rest = column; rest > 0; rest = (rest - 1) / 26)
    letters.insert(letters.begin(), static_cast<char>('A' + (rest - 1) % 26));
  return letters + std::to_string(row);
}

std::unique_ptr<Workbook> open_workbook(std::string bytes, const std::string& source) {
  auto archive = std::make_unique<Archive>(std::move(bytes), source);
  if (archive->has("content.xml")) return open_ods(std::move(archive), source);
  if (archive->has("_rels/.rels")) return open_xlsx(std::move(archive), source);
  throw Error({.code = ErrorCode::unsupported_file,
               .message = "this is a zip archive, not a spreadsheet",
               .remedy = "unpack it, and read the table that is in it",
               .place = {.file = source}});
}

}  // namespace truecurve::detail
