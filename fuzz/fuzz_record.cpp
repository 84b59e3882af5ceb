// Records that were edited: what is read back is refused with the field named, or everything that a command does with a
// record works on it. The input is a record's number, then edits; with the number 255 the rest is the record itself.
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/io/record.hpp>

#include "../io/calibration_json.hpp"
#include "made_records.hpp"

#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <functional>
#include <sstream>
#include <string>
#include <vector>

namespace {

using namespace truecurve;
using detail::Json;

// A record and the places of its fields.
struct Form {
  Json record;
  std::string kind;
  std::vector<std::string> fields;
};

std::vector<Form> forms() {
  std::vector<Form> all;
  for (const std::string& text : made::records_that_are_read()) {
    Form form{.record = Json::parse(text)};
    form.kind = form.record["record"].get<std::string>();
    const std::function<void(const Json&, const std::string&)> list = [&](const Json& node, const std::string& at) {
      if (!at.empty()) form.fields.push_back(at);
      if (!node.is_structured()) return;
      for (const auto& [key, inner] : node.items()) list(inner, at + "/" + key);
    };
    list(form.record, "");
    all.push_back(std::move(form));
  }
  return all;
}

// Bytes, one after another; zeros beyond the end.
class Bytes {
 public:
  Bytes(const unsigned char* data, std::size_t size) : data_(data), size_(size) {}
  [[nodiscard]] bool is_over() const { return at_ >= size_; }
  unsigned next() { return is_over() ? 0 : data_[at_++]; }
  std::size_t index(std::size_t size) { return (next() * 256 + next()) % size; }
  double number() {
    constexpr std::array usual = {0.0,    -0.0,   1.0,    -1.0,  0.5, 2.0,         1e308,
                                  -1e308, 5e-324, 1e-160, 1e160, 1e9, 2147483648.0};
    const unsigned kind = next();
    if (kind < usual.size()) return usual[kind];
    if (kind < 128) return (static_cast<double>(kind) - 70) / 8;
    std::array<unsigned char, 8> bits{};
    for (unsigned char& byte : bits) byte = static_cast<unsigned char>(next());
    double any = 0;
    std::memcpy(&any, bits.data(), sizeof any);
    return std::isfinite(any) ? any : 0;
  }
  std::string text() {
    std::string made;
    for (std::size_t left = next() % 40; left > 0; --left) made += static_cast<char>(32 + next() % 95);
    return made;
  }

 private:
  const unsigned char* data_;
  std::size_t size_;
  std::size_t at_ = 0;
};

void edit(Json& record, const std::vector<std::string>& fields, Bytes& bytes) {
  const Json::json_pointer at(fields[bytes.index(fields.size())]);
  if (!record.contains(at)) return;  // edited away before
  Json& node = record[at];
  switch (bytes.next() % 9) {
    case 0: node = bytes.number(); break;
    case 1: node = nullptr; break;
    case 2: node = bytes.text(); break;
    case 3: node = bytes.next() % 2 == 0; break;
    case 4:
      if (Json& parent = record[at.parent_pointer()]; parent.is_object()) parent.erase(at.back());
      break;
    case 5: {
      const Json::json_pointer other(fields[bytes.index(fields.size())]);
      if (record.contains(other)) node = Json(record[other]);
      break;
    }
    case 6:
      if (node.is_array() && !node.empty() && node.size() < 20) node.push_back(Json(node.front()));
      break;
    case 7:
      if (node.is_array() && !node.empty()) node.erase(node.size() - 1);
      break;
    default:
      if (node.is_number()) node = node.get<double>() * (1 + bytes.number() / 1e6);
  }
}

// What commands do with a curve: `predict`, `solve`, `derive`.
void use(const Estimate& estimate) {
  const std::vector<Vector> points(estimate.predictors().size(), Vector{0.5, 3, 7.25});
  (void)prediction_record(estimate, points, band(estimate, points, 0.95), 0.95);
  (void)derivation_record(estimate, deduce(estimate, 0.95), 0.95);
  if (estimate.predictors().size() == 1) (void)solution_record(estimate, 5, solve(estimate, 5), {});
}

template <typename Step>
void try_step(const Step& step) {
  try {
    step();
  } catch (const Error& error) {
    if (error.message().empty() || error.remedy().empty() || error.code() == ErrorCode::internal) std::abort();
  }
}

void use_fit(const std::string& text) {
  try_step([&] { use(read_fit_record(text, "fuzz")); });
  try_step([&] { (void)read_counted_fit(text, "fuzz"); });
}

void use_comparison(const std::string& text) {
  try_step([&] {
    const Vector at = {0.5, 3};
    const auto curves = read_comparison_record(text, "fuzz");
    const std::vector<Vector> points(curves.front().estimate.predictors().size(), at);
    (void)averaged_prediction_record(curves, points, averaged_band(curves, points, 0.95), 0.95);
  });
}

void use_calibration(const std::string& text) {
  try_step([&] {
    static const Table unknown = made::rows("s,I\nA,10.1\nA,10.4\nB,2.1\nC,99\n");
    const StoredCalibration stored = read_calibration_record(text, "fuzz");
    const Readings readings = readings_of(unknown, {.signals = {"I"}, .sample = "s", .otherwise = ReadingKind::sample});
    (void)quantities_record(quantify(stored.curve, readings, {.limits = stored.limits}), stored, readings);
  });
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  static const std::vector<Form> all = forms();
  if (size < 2) return 0;
  if (data[0] == 255) {
    const std::string text(reinterpret_cast<const char*>(data + 1), size - 1);
    try_step([&] { require_record(text, "fuzz"); });
    use_fit(text);
    use_comparison(text);
    use_calibration(text);
    return 0;
  }
  const Form& form = all[data[0] % all.size()];
  Json record = form.record;
  Bytes bytes(data + 1, size - 1);
  while (!bytes.is_over()) edit(record, form.fields, bytes);
  if (record.contains("checksum")) record["checksum"] = detail::checksum_of(record);
  const std::string text = record.dump();
  if (form.kind == "truecurve.comparison/1") {
    use_comparison(text);
  } else if (form.kind == "truecurve.calibration/1") {
    use_calibration(text);
  } else {
    use_fit(text);
  }
  return 0;
}
