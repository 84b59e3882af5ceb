// Words with the means they speak of, plain or as an interface says them.
#include <truecurve/base/advice.hpp>

namespace truecurve {

Advice::Advice(std::string words) {
  if (!words.empty()) parts_.emplace_back(std::move(words));
}

Advice::Advice(const char* words) : Advice(std::string(words)) {}

Advice::Advice(std::initializer_list<Part> parts) : parts_(parts) {
  std::erase_if(parts_, [](const Part& part) { return part.words.empty() && !part.means; });
}

std::string Advice::text() const { return text({}); }

std::string Advice::text(const MeansWords& words) const {
  std::string said;
  std::string open;  // what stands in the bracket that is being made
  const auto close = [&] {
    if (!open.empty()) said += " (" + open + ")";
    open.clear();
  };
  for (const Part& part : parts_) {
    if (!part.words.empty()) close();
    said += part.words;
    const std::string how = words && part.means ? words(*part.means) : "";
    if (!how.empty()) open += (open.empty() ? "" : ", ") + how;
  }
  close();
  return said;
}

std::vector<Means> Advice::means() const {
  std::vector<Means> all;
  for (const Part& part : parts_) {
    if (part.means) all.push_back(*part.means);
  }
  return all;
}

Advice& Advice::operator+=(const Advice& more) {
  parts_.insert(parts_.end(), more.parts_.begin(), more.parts_.end());
  return *this;
}

}  // namespace truecurve
