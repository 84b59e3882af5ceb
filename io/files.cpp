// Files without a name until they are whole, and their way into place.
#include <truecurve/io/files.hpp>

#include "placing.hpp"

#include <algorithm>
#include <cerrno>
#include <memory>
#include <mutex>
#include <set>
#include <string>
#include <system_error>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace truecurve {
namespace writing {

namespace fs = std::filesystem;
using namespace placing;

int write_all(int descriptor, std::string_view text) {
  while (!text.empty()) {
    const ssize_t written = ::write(descriptor, text.data(), text.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return errno;
    if (written == 0) return EIO;
    text.remove_prefix(static_cast<std::size_t>(written));
  }
  return 0;
}

// A file that is whole but has no place yet.
struct Whole {
  fs::path name{};  // as it was given
  Target target{};
  std::string text{};  // of a stream, which is written last
  Descriptor file{};
  std::unique_ptr<PassingName> named{};  // or its passing name
};

// The permissions and, where that is allowed, the owner of the file it replaces.
int take_over(int descriptor, const Target& target) {
  if (!target.there) return 0;
  if (fchown(descriptor, target.there->st_uid, target.there->st_gid) != 0 && errno != EPERM) return errno;
  return fchmod(descriptor, target.there->st_mode & 07777) != 0 ? errno : 0;
}

constexpr mode_t new_file = 0666;  // less what the user's mask takes away

Whole whole_file(const fs::path& file, std::string_view text) {
  Whole whole{.name = file, .target = target_of(file)};
  require_permission(file, whole.target);
  if (whole.target.is_stream()) {
    whole.text = text;
    return whole;
  }
  Descriptor made(open(folder_of(whole.target.path).c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, new_file));
  const auto link_of = [](const Descriptor& d) { return fmt::format("/proc/self/fd/{}", d.number()); };
  const bool can_be_named = made.is_open() && access(link_of(made).c_str(), F_OK) == 0;
  if (!can_be_named) {  // not every file system knows files without a name
    auto name = std::make_unique<PassingName>(passing_path(whole.target.path));
    made = Descriptor(open(name->path().c_str(), O_CREAT | O_EXCL | O_NOFOLLOW | O_WRONLY | O_CLOEXEC, new_file));
    if (!made.is_open()) {
      name->release();
      cannot_write(file, errno);
    }
    whole.named = std::move(name);
  }
  int error = write_all(made.number(), text);
  if (error == 0) error = take_over(made.number(), whole.target);
  if (error != 0) cannot_write(file, error);
  whole.file = std::move(made);
  return whole;
}

// Gives a file a passing name, from which it can be moved.
void name_it(Whole& whole) {
  if (whole.named) return;
  auto name = std::make_unique<PassingName>(passing_path(whole.target.path));
  const std::string link = fmt::format("/proc/self/fd/{}", whole.file.number());
  if (linkat(AT_FDCWD, link.c_str(), AT_FDCWD, name->path().c_str(), AT_SYMLINK_FOLLOW) != 0) {
    const int error = errno;
    name->release();
    cannot_write(whole.name, error);
  }
  whole.named = std::move(name);
}

void write_stream(const Whole& whole) {
  Descriptor opened;
  int number = whole.target.stream;
  if (number < 0) {
    opened = Descriptor(open(whole.target.path.c_str(), O_WRONLY | O_NOCTTY | O_CLOEXEC));
    number = opened.number();
  }
  int error = number < 0 ? errno : write_all(number, whole.text);
  if (error == 0 && opened.close() != 0) error = errno;
  if (error != 0)
    cannot_write(whole.name, reason_of(error), "check what reads it; some of the text may have been written");
}

bool is_in_workshop(const fs::path& file) {
  const std::lock_guard turn(names().turn);
  const auto& in_use = names().in_use;
  return std::find(in_use.begin(), in_use.end(), folder_of(file)) != in_use.end();
}

// Each by itself, or all of a file system at once where they are many. What lies in a workshop has time until then.
void bring_to_disk(const std::vector<Whole>& files) {
  constexpr std::size_t many = 4;
  for (const Whole& whole : files) {
    if (!whole.file.is_open() || is_in_workshop(whole.target.path)) continue;
    const bool all = files.size() >= many;
    const int result = all ? syncfs(whole.file.number()) : fsync(whole.file.number());
    if (result != 0 && errno != EINVAL) cannot_write(whole.name, errno);
    if (all) return;
  }
}

void place(std::vector<Whole>& files) {
  bring_to_disk(files);
  std::vector<Move> moves;
  std::vector<Whole*> moved;
  for (Whole& whole : files) {
    if (whole.target.is_stream()) continue;
    name_it(whole);
    if (whole.file.close() != 0) cannot_write(whole.name, errno);
    moves.emplace_back(whole.named->path(), whole.target.path);
    moved.push_back(&whole);
  }
  // Streams come first: what has been written to them can't be taken back, but they can fail.
  for (const Whole& whole : files) {
    if (whole.target.is_stream()) write_stream(whole);
  }
  if (const auto failed = make_all(moves)) cannot_write(moved[failed->first]->name, failed->second);
  std::set<fs::path> folders;
  for (const Move& move : moves) {
    if (!is_in_workshop(move.to())) folders.insert(folder_of(move.to()));
  }
  for (const fs::path& folder : folders) bring_folder_to_disk(folder);
}

thread_local Together* innermost = nullptr;

}  // namespace writing

using namespace writing;

struct Together::Files {
  std::vector<Whole> all{};
};

Together::Together() : files_(std::make_unique<Files>()), outer_(std::exchange(innermost, this)) {}

Together::~Together() { innermost = outer_; }

void Together::publish() {
  std::vector<Whole> files = std::exchange(files_->all, {});
  place(files);
}

void write_file(const fs::path& file, std::string_view text) {
  Whole whole = whole_file(file, text);
  if (innermost != nullptr) {
    innermost->files_->all.push_back(std::move(whole));
    return;
  }
  std::vector<Whole> one;
  one.push_back(std::move(whole));
  place(one);
}

void require_writable(const fs::path& file) { require_permission(file, target_of(file)); }

bool is_same_file(const fs::path& a, const fs::path& b) {
  struct stat of_a {};
  struct stat of_b {};
  const bool has_a = stat(a.c_str(), &of_a) == 0;
  const bool has_b = stat(b.c_str(), &of_b) == 0;
  if (has_a != has_b) return false;
  if (has_a) return S_ISREG(of_a.st_mode) && of_a.st_dev == of_b.st_dev && of_a.st_ino == of_b.st_ino;
  std::error_code code;
  const fs::path whole_a = fs::weakly_canonical(a, code);
  const fs::path whole_b = fs::weakly_canonical(b, code);
  return !a.empty() && whole_a == whole_b;
}

Workshop::Workshop(fs::path target) : target_(without_slash(std::move(target))) {
  if (target_.empty()) target_ = ".";
  std::error_code code;
  if (const fs::path whole = fs::weakly_canonical(target_, code); !code) target_ = whole;
  if (fs::exists(target_, code) && !fs::is_directory(target_, code))
    cannot_write(target_, "it is a file and no folder", "choose another folder");
  fs::create_directories(folder_of(target_), code);
  if (code) cannot_write(target_, code.value());
  path_ = passing_path(target_);
  const std::lock_guard turn(names().turn);
  if (mkdir(path_.c_str(), 0777) != 0) cannot_write(target_, errno);
  names().in_use.push_back(path_);
  // Locked as long as the process lives.
  lock_ = open(path_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (lock_ >= 0) (void)flock(lock_, LOCK_EX | LOCK_NB);
}

Workshop::~Workshop() {
  const std::lock_guard turn(names().turn);
  if (lock_ >= 0) (void)::close(lock_);
  std::error_code ignored;
  fs::remove_all(path_, ignored);
  auto& in_use = names().in_use;
  in_use.erase(std::find(in_use.begin(), in_use.end(), path_));
}

void Workshop::hand_over() const {
  std::error_code code;
  const bool is_new = fs::create_directories(target_, code);
  if (code) cannot_write(target_, code.value());
  const Descriptor folder(open(path_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (folder.is_open() && syncfs(folder.number()) != 0) cannot_write(target_, errno);
  std::vector<Move> moves;
  for (const fs::directory_entry& file : fs::directory_iterator(path_)) {
    const fs::path name = file.path().filename();
    const Target target = target_of(target_ / name);
    require_permission(target_ / name, target);
    if (target.is_stream())
      cannot_write(target_ / name, "it is no plain file", "take it away, or choose another folder");
    moves.emplace_back(file.path(), target.path);
  }
  if (const auto failed = make_all(moves)) {
    if (is_new) fs::remove(target_, code);
    cannot_write(moves[failed->first].to(), failed->second);
  }
  bring_folder_to_disk(target_);
}

std::vector<fs::path> Workshop::left_behind(const fs::path& target) {
  const fs::path whole = without_slash(target);
  std::vector<fs::path> left;
  std::error_code code;
  const std::string begin = "." + whole.filename().string() + ".";
  for (const fs::directory_entry& entry : fs::directory_iterator(folder_of(whole), code)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with(begin) || !name.ends_with(".part") || !entry.is_directory(code)) continue;
    const Descriptor folder(open(entry.path().c_str(), O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_CLOEXEC));
    const bool is_in_use = folder.is_open() && flock(folder.number(), LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
    if (!is_in_use) left.push_back(entry.path());
  }
  std::sort(left.begin(), left.end());
  return left;
}

void remove_unfinished() noexcept {
  names().turn.lock();  // for ever
  for (const fs::path& path : names().in_use) {
    std::error_code ignored;
    fs::remove_all(path, ignored);
  }
}

}  // namespace truecurve
