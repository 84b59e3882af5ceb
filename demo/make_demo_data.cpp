// Writes the demo data into a folder: make_demo_data FOLDER
#include "make_demo_data.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>

#include <filesystem>
#include <iostream>

int main(int count, char** values) {
  if (count != 2) {
    std::cerr << "usage: make_demo_data FOLDER\n";
    return 2;
  }
  try {
    for (const auto& file : truecurve::demo::demo_files())
      truecurve::write_file(std::filesystem::path(values[1]) / file.name, file.text);
  } catch (const truecurve::Error& error) {
    std::cerr << "make_demo_data: " << error.what() << '\n';
    return 5;
  }
  return 0;
}
