// Files without a name until they are whole, and their way into place.
#include <truecurve/base/error.hpp>
#include <truecurve/io/files.hpp>

#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <cstdlib>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

namespace truecurve {
namespace writing {

namespace fs = std::filesystem;

[[noreturn]] void cannot_write(const fs::path& file, const std::string& why, const std::string& remedy) {
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

const char* const nothing_left = "check the folder, the permission and the space on the disk; nothing was left behind";

[[noreturn]] void cannot_write(const fs::path& file, int error) { cannot_write(file, reason_of(error), nothing_left); }

// Names that exist only while something is being written.
struct Names {
  std::mutex turn;
  std::vector<fs::path> in_use;
};

// Never destroyed: a signal may come while the process ends.
Names& names() {
  static Names& all = *new Names;
  return all;
}

// A name in the file system that goes again unless it is released.
class PassingName {
 public:
  explicit PassingName(fs::path path) : path_(std::move(path)) {
    const std::lock_guard turn(names().turn);
    names().in_use.push_back(path_);
  }
  ~PassingName() {
    const std::lock_guard turn(names().turn);
    std::error_code ignored;
    if (!released_) fs::remove_all(path_, ignored);
    auto& in_use = names().in_use;
    in_use.erase(std::find(in_use.begin(), in_use.end(), path_));
  }
  PassingName(const PassingName&) = delete;
  PassingName& operator=(const PassingName&) = delete;

  const fs::path& path() const { return path_; }
  void release() { released_ = true; }

 private:
  fs::path path_;
  bool released_ = false;
};

class Descriptor {
 public:
  explicit Descriptor(int number = -1) : number_(number) {}
  ~Descriptor() { (void)close(); }
  Descriptor(Descriptor&& other) noexcept : number_(std::exchange(other.number_, -1)) {}
  Descriptor& operator=(Descriptor&& other) noexcept {
    std::swap(number_, other.number_);
    return *this;
  }

  int number() const { return number_; }
  bool is_open() const { return number_ >= 0; }
  int close() { return number_ < 0 ? 0 : ::close(std::exchange(number_, -1)); }

 private:
  int number_;
};

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

// A folder's name may end in slashes.
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

// What a name leads to: where a file is to be made or replaced, or a stream that is open or can be opened.
struct Target {
  fs::path path{};  // links followed
  std::optional<struct stat> there{};
  int stream = -1;  // the number of one of the program's own streams

  bool is_stream() const { return stream >= 0 || (there && !S_ISREG(there->st_mode) && !S_ISDIR(there->st_mode)); }
};

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

// One file on its way from a passing name into its place; it can be taken back until it is settled.
class Move {
 public:
  Move(fs::path from, fs::path to) : from_(std::move(from)), to_(std::move(to)) {}

  int make() {
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

  void take_back() {
    if (state_ == State::exchanged) (void)renameat2(AT_FDCWD, from_.c_str(), AT_FDCWD, to_.c_str(), RENAME_EXCHANGE);
    if (state_ == State::moved) (void)::rename(to_.c_str(), from_.c_str());
    state_ = State::waiting;
  }

  // What was replaced goes.
  void settle() const {
    if (state_ == State::exchanged) (void)unlink(from_.c_str());
  }

  const fs::path& to() const { return to_; }

 private:
  enum class State { waiting, moved, exchanged };
  fs::path from_;
  fs::path to_;
  State state_ = State::waiting;
};

// All of them, or none. The name of the one that can't be moved with the error's number, or nothing.
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
