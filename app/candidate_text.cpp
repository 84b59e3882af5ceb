// Takes a candidate apart.
#include "candidate_text.hpp"

#include <truecurve/base/error.hpp>

#include <charconv>
#include <optional>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

std::string trimmed(const std::string& text) {
  const auto first = text.find_first_not_of(" \t\n");
  return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(" \t\n") - first + 1);
}

// What semicolons set apart; one between quotation marks belongs to a header.
std::vector<std::string> parts_of(const std::string& text) {
  std::vector<std::string> parts;
  for (std::size_t start = 0; start <= text.size();) {
    std::size_t end = start;
    bool quoted = false;
    for (; end < text.size() && (quoted || text[end] != ';'); ++end) quoted = quoted != (text[end] == '\'');
    if (quoted) end = std::min(text.find(';', start), text.size());
    parts.push_back(trimmed(text.substr(start, end - start)));
    start = end + 1;
  }
  return parts;
}

[[noreturn]] void refuse(const std::string& candidate, const std::string& message, const std::string& remedy) {
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("candidate '{}': {}", candidate, message),
               .subject = "CANDIDATE",
               .value = candidate,
               .remedy = remedy});
}

// The degrees of "polynomial(1..5)".
struct Ladder {
  int low = 0;
  int high = 0;
};

std::optional<Ladder> ladder_of(const std::string& model) {
  constexpr std::string_view head = "polynomial(";
  const auto dots = model.find("..");
  if (!model.starts_with(head) || !model.ends_with(")") || dots == std::string::npos) return std::nullopt;
  Ladder ladder;
  const char* const begin = model.data() + head.size();
  const char* const middle = model.data() + dots;
  const char* const end = model.data() + model.size() - 1;
  const bool read = std::from_chars(begin, middle, ladder.low).ptr == middle && begin != middle &&
                    std::from_chars(middle + 2, end, ladder.high).ptr == end && middle + 2 != end;
  if (!read || ladder.low < 1 || ladder.high <= ladder.low || ladder.high > 15)
    refuse(model, "this is not a ladder of degrees", "write polynomial(1..5): the lower degree first, at most 15");
  return ladder;
}

void take(const std::string& whole, const std::string& word, CandidateText& candidate) {
  const auto blank = word.find(' ');
  const std::string key = word.substr(0, blank);
  const std::string value = blank == std::string::npos ? "" : trimmed(word.substr(blank));
  if (key == "direct" || key == "linearized") {
    candidate.model.route = route_of(key);
  } else if (key == "route" && !value.empty()) {
    candidate.model.route = route_of(value);
  } else if (key == "spread" && !value.empty()) {
    candidate.model.spread = value;
  } else if (key == "start" && !value.empty()) {
    candidate.model.starts.push_back(value);
  } else if (key == "fix" && !value.empty()) {
    candidate.model.fixed.push_back(value);
  } else if (key == "within" && !value.empty()) {
    candidate.model.within.push_back(value);
  } else if (key == "u" && value == "none") {
    candidate.ignores_uncertainties = true;
  } else if (key == "name" && !value.empty()) {
    candidate.name = value;
  } else {
    refuse(whole, fmt::format("'{}' is not understood", word),
           "after the model and a semicolon write direct, linearized, spread proportional, start k=1, fix k=1, within "
           "k=0.., u none or name NAME");
  }
}

}  // namespace

std::vector<CandidateText> candidates_of(const std::string& text, const ModelOptions& common) {
  const std::vector<std::string> parts = parts_of(text);
  if (parts.front().empty()) refuse(text, "there is no model", "write a shape or an equation first");
  CandidateText candidate{.name = "", .model = common};
  candidate.model.model = parts.front();
  candidate.model.is_one_of_several = true;
  std::string peculiar;
  for (std::size_t i = 1; i < parts.size(); ++i) {
    take(text, parts[i], candidate);
    peculiar += ", " + parts[i];
  }
  const std::optional<Ladder> ladder = ladder_of(parts.front());
  if (!ladder) {
    if (candidate.name.empty()) candidate.name = parts.front() + peculiar;
    return {candidate};
  }
  if (!candidate.name.empty()) refuse(text, "a ladder is several candidates", "omit the name");
  std::vector<CandidateText> candidates;
  for (int degree = ladder->low; degree <= ladder->high; ++degree) {
    candidate.model.model = fmt::format("polynomial({})", degree);
    candidate.name = candidate.model.model + peculiar;
    candidates.push_back(candidate);
  }
  return candidates;
}

}  // namespace truecurve::app
