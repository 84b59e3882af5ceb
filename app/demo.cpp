// truecurve demo: the bell foundry's study, start to end.
#include <truecurve/io/files.hpp>

#include "command.hpp"
#include "foundry_study.hpp"
#include "make_demo_data.hpp"

#include <filesystem>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

namespace fs = std::filesystem;

int run_demo(const std::string& folder, const Streams& streams) {
  std::error_code ignored;
  fs::create_directories(folder, ignored);  // where it can't be made, writing the first file says so
  for (const demo::DemoFile& file : demo::demo_files()) write_file(fs::path(folder) / file.name, file.text);
  const fs::path study = fs::path(folder) / "foundry.toml";
  write_file(study, demo::foundry_study);
  if (streams.files != nullptr) streams.files->publish();  // what follows reads them
  return run({"run", study.string(), "--into", (fs::path(folder) / "results").string()}, streams);
}

}  // namespace

Command add_demo(CLI::App& parser, const Streams& streams) {
  auto folder = std::make_shared<std::string>("truecurve-demo");
  Arguments command(parser, "demo", "The bell foundry's study, start to end: made-up data, records, figures, report");
  command.add("DIR", *folder, "Folder for data and results");
  command.example("truecurve demo bells");
  return [folder, streams] { return run_demo(*folder, streams); };
}

}  // namespace truecurve::app
