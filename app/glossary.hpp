// The words of the reports, one paragraph each with its source.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace truecurve::app {

struct GlossaryEntry {
  std::string_view word;
  std::string_view others;  ///< other words for it, between semicolons, in small letters
  std::string_view text;
};

/// In alphabetical order.
[[nodiscard]] const std::vector<GlossaryEntry>& glossary();

/// The entry of that word, whatever its letters' case; nullptr where there is none.
[[nodiscard]] const GlossaryEntry* glossary_entry(std::string_view word);

/// Every word that has an entry, the others included.
[[nodiscard]] std::vector<std::string> glossary_words();

}  // namespace truecurve::app
