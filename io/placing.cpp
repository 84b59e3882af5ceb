// Names that pass, links that are followed, and exchanges.
#include "placing.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <cstdlib>
#include <system_error>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/random.h>

namespace truecurve::placing {

namespace fs = std::filesystem;

void cannot_write(const fs::path& file, const std::string& why, const std::string& remedy) {
  throw Error({.code = ErrorCode::cannot_write,
               .message = fmt::format("the file can't be written: {}", why),
               .subject = file.string(),
               .remedy = remedy,
               .place = {.file = file.string()}});
}

std::string reason_of(int error) {
  if (error == ENOENT || error == ENOTDIR) return "there is no such folder";
  if (error == EACCES || error == EPERM) return "no permission";
  if (error == ENOSPC || error == EDQUOT) return "no space is left";
  std::string text = std::error_code(error, std::generic_category()).message();
  if (!text.empty()) text[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(text[0])));
  return text;
}

void cannot_write(const fs::path& file, int error) {
  cannot_write(file, reason_of(error),
               "check the folder, the permission and the space on the disk; nothing was left behind");
}

// Never destroyed: a signal may come while the process ends.
Names& names() {
  static Names& all = *new Names;
  return all;
}

PassingName::PassingName(fs::path path) : path_(std::move(path)) {
  const std::lock_guard turn(names().turn);
  names().in_use.push_back(path_);
}

PassingName::~PassingName() {
  const std::lock_guard turn(names().turn);
  std::error_code ignored;
  if (!released_) fs::remove_all(path_, ignored);
  auto& in_use = names().in_use;
  in_use.erase(std::find(in_use.begin(), in_use.end(), path_));
}

namespace {

// Eight letters and digits that nobody can foresee.
std::string unforeseen() {
  static constexpr std::string_view signs = "abcdefghijklmnopqrstuvwxyz012345";
  std::array<unsigned char, 8> bytes{};
  if (getrandom(bytes.data(), bytes.size(), 0) != static_cast<ssize_t>(bytes.size()))
    throw Error({.code = ErrorCode::internal, .message = "the system gives no random numbers"});
  std::string text;
  for (const unsigned char byte : bytes) text += signs[byte % signs.size()];
  return text;
}

}  // namespace

fs::path without_slash(fs::path folder) {
  while (folder.has_relative_path() && !folder.has_filename()) folder = folder.parent_path();
  return folder;
}

fs::path folder_of(const fs::path& file) { return file.has_parent_path() ? file.parent_path() : fs::path("."); }

fs::path passing_path(const fs::path& target) {
  std::string name = target.filename().string();
  constexpr std::size_t longest = 200;  // names end at 255 bytes
  if (name.size() > longest) name.resize(longest);
  return folder_of(target) / fmt::format(".{}.{}.part", name, unforeseen());
}

namespace {

// Of /dev/stdout, /dev/fd/3 and files that standard output or error go to.
int own_stream(const fs::path& file, const std::optional<struct stat>& there) {
  if (file == "/dev/stdout") return STDOUT_FILENO;
  if (file == "/dev/stderr") return STDERR_FILENO;
  for (const std::string_view folder : {"/dev/fd/", "/proc/self/fd/"}) {
    const std::string text = file.string();
    if (!text.starts_with(folder)) continue;
    const std::string number = text.substr(folder.size());
    if (!number.empty() && number.size() < 6 && number.find_first_not_of("0123456789") == std::string::npos)
      return std::atoi(number.c_str());
  }
  for (const int number : {STDOUT_FILENO, STDERR_FILENO}) {
    struct stat open {};
    if (there && fstat(number, &open) == 0 && S_ISREG(open.st_mode) && open.st_dev == there->st_dev &&
        open.st_ino == there->st_ino)
      return number;
  }
  return -1;
}

}  // namespace

Target target_of(const fs::path& file) {
  Target target{.path = file};
  if (file.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "the name of a file to write is empty",
                 .subject = "file",
                 .remedy = "give it a name"});
  }
  constexpr int most_links = 40;
  std::error_code code;
  for (int links = 0; fs::is_symlink(target.path, code) && target.path.string().rfind("/dev/", 0) != 0; ++links) {
    if (links == most_links) cannot_write(file, ELOOP);
    const fs::path next = fs::read_symlink(target.path, code);
    if (code) cannot_write(file, code.value());
    target.path = next.is_absolute() ? next : folder_of(target.path) / next;
  }
  struct stat there {};
  if (stat(target.path.c_str(), &there) == 0) {
    target.there = there;
  } else if (errno != ENOENT) {
    cannot_write(file, errno);
  }
  target.stream = own_stream(target.path, target.there);
  const bool is_folder = (target.there && S_ISDIR(target.there->st_mode)) || !target.path.has_filename();
  if (is_folder) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' is a folder, and a file is to be written", file.string()),
                 .subject = file.string(),
                 .value = file.string(),
                 .remedy = "add the name of a file"});
  }
  return target;
}

void require_permission(const fs::path& file, const Target& target) {
  if (target.stream >= 0) return;
  if (target.there && faccessat(AT_FDCWD, target.path.c_str(), W_OK, AT_EACCESS) != 0) cannot_write(file, errno);
  if (target.is_stream()) return;
  if (faccessat(AT_FDCWD, folder_of(target.path).c_str(), W_OK | X_OK, AT_EACCESS) != 0) cannot_write(file, errno);
}

int Move::make() {
  struct stat there {};
  if (stat(to_.c_str(), &there) == 0 && S_ISDIR(there.st_mode)) return EISDIR;
  // What was there takes the passing name.
  if (renameat2(AT_FDCWD, from_.c_str(), AT_FDCWD, to_.c_str(), RENAME_EXCHANGE) == 0) {
    state_ = State::exchanged;
    return 0;
  }
  if (errno != ENOENT && errno != EINVAL && errno != ENOSYS) return errno;
  if (::rename(from_.c_str(), to_.c_str()) != 0) return errno;
  state_ = State::moved;
  return 0;
}

void Move::take_back() {
  if (state_ == State::exchanged) (void)renameat2(AT_FDCWD, from_.c_str(), AT_FDCWD, to_.c_str(), RENAME_EXCHANGE);
  if (state_ == State::moved) (void)::rename(to_.c_str(), from_.c_str());
  state_ = State::waiting;
}

void Move::settle() const {
  if (state_ == State::exchanged) (void)unlink(from_.c_str());
}

std::optional<std::pair<std::size_t, int>> make_all(std::vector<Move>& moves) {
  for (std::size_t i = 0; i < moves.size(); ++i) {
    const int error = moves[i].make();
    if (error == 0) continue;
    for (std::size_t k = i; k-- > 0;) moves[k].take_back();
    return std::pair{i, error};
  }
  for (const Move& move : moves) move.settle();
  return std::nullopt;
}

void bring_folder_to_disk(const fs::path& folder) {
  const Descriptor opened(open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (opened.is_open()) (void)fsync(opened.number());  // some file systems can't, and need not
}

}  // namespace truecurve::placing
