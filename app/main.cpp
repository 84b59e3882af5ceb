// The executable: hands its arguments and streams to run().
#include "run.hpp"

#include <iostream>

int main(int count, char** values) {
  std::ios::sync_with_stdio(false);
  const int code = truecurve::app::run({values + 1, values + count}, {std::cin, std::cout, std::cerr});
  std::cout.flush();
  if (!std::cout) {
    std::cerr << "truecurve: standard output could not be written\n";
    return 5;
  }
  return code;
}
