// Writes what is installed beside the command: manual pages and completions, from what the command says of itself.
#include <truecurve/io/files.hpp>

#include "manual.hpp"
#include "run.hpp"

#include <filesystem>
#include <iostream>
#include <sstream>

int main(int count, char** values) {
  if (count != 2) {
    std::cerr << "make_shell_files FOLDER\n";
    return 2;
  }
  const std::filesystem::path folder = values[1];
  std::filesystem::create_directories(folder / "man1");
  std::filesystem::create_directories(folder / "man7");
  std::filesystem::create_directories(folder / "completions");
  for (const auto& page : truecurve::app::manual_pages())
    truecurve::write_file(folder / ("man" + page.file.substr(page.file.size() - 1)) / page.file, page.text);
  for (const auto& [shell, file] :
       {std::pair{"bash", "truecurve"}, {"zsh", "_truecurve"}, {"fish", "truecurve.fish"}}) {
    std::ostringstream script;
    if (truecurve::app::run({"completion", shell}, {std::cin, script, std::cerr}) != 0) return 1;
    truecurve::write_file(folder / "completions" / file, script.str());
  }
}
