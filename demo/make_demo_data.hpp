// The demo data as text, made from the written truth.
#pragma once

#include <string>
#include <vector>

namespace truecurve::demo {

struct DemoFile {
  std::string name;
  std::string text;
};

/// Every demo file, always the same bytes.
[[nodiscard]] std::vector<DemoFile> demo_files();

}  // namespace truecurve::demo
