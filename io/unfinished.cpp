// A list of the temporary names in use.
#include <truecurve/io/unfinished.hpp>

#include <algorithm>
#include <mutex>
#include <vector>

#include <fmt/format.h>
#include <unistd.h>

namespace truecurve {
namespace {

struct Names {
  std::mutex turn;
  std::vector<std::filesystem::path> in_use;
};

// Never destroyed: a signal may come while the process ends.
Names& names() {
  static Names& all = *new Names;
  return all;
}

}  // namespace

Unfinished::Unfinished(std::filesystem::path target) : target_(std::move(target)), path_(target_) {
  // A folder's name may end in a slash.
  while (!path_.empty() && !path_.has_filename()) path_ = path_.parent_path();
  path_ += fmt::format(".{}.part", getpid());
  const std::lock_guard turn(names().turn);
  names().in_use.push_back(path_);
}

Unfinished::~Unfinished() {
  const std::lock_guard turn(names().turn);
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
  auto& in_use = names().in_use;
  in_use.erase(std::find(in_use.begin(), in_use.end(), path_));
}

std::error_code Unfinished::take_place() const {
  std::error_code code;
  std::filesystem::rename(path_, target_, code);
  return code;
}

void remove_unfinished() noexcept {
  names().turn.lock();  // for ever
  for (const std::filesystem::path& path : names().in_use) {
    std::error_code ignored;
    std::filesystem::remove_all(path, ignored);
  }
}

}  // namespace truecurve
