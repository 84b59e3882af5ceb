// How what is written comes to its place: names, descriptors, what a name leads to, and moves that can be taken back.
#pragma once

#include <filesystem>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include <sys/stat.h>
#include <unistd.h>

namespace truecurve::placing {

/// Throws Error (cannot_write) that names the file.
[[noreturn]] void cannot_write(const std::filesystem::path& file, const std::string& why, const std::string& remedy);
/// With the words for an error's number.
[[noreturn]] void cannot_write(const std::filesystem::path& file, int error);
[[nodiscard]] std::string reason_of(int error);

/// Names that exist only while something is being written.
struct Names {
  std::mutex turn;
  std::vector<std::filesystem::path> in_use;
};
Names& names();

/// A name in the file system that goes again, with what it names, unless it is released.
class PassingName {
 public:
  explicit PassingName(std::filesystem::path path);
  ~PassingName();
  PassingName(const PassingName&) = delete;
  PassingName& operator=(const PassingName&) = delete;

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  void release() { released_ = true; }

 private:
  std::filesystem::path path_;
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

  [[nodiscard]] int number() const { return number_; }
  [[nodiscard]] bool is_open() const { return number_ >= 0; }
  int close() { return number_ < 0 ? 0 : ::close(std::exchange(number_, -1)); }

 private:
  int number_;
};

/// A folder's name may end in slashes.
[[nodiscard]] std::filesystem::path without_slash(std::filesystem::path folder);
[[nodiscard]] std::filesystem::path folder_of(const std::filesystem::path& file);
/// Beside the target, and such that nobody can foresee it.
[[nodiscard]] std::filesystem::path passing_path(const std::filesystem::path& target);

/// What a name leads to: where a file is to be made or replaced, or a stream that is open or can be opened.
struct Target {
  std::filesystem::path path{};  // links followed
  std::optional<struct stat> there{};
  int stream = -1;  // the number of one of the program's own streams

  [[nodiscard]] bool is_stream() const {
    return stream >= 0 || (there && !S_ISREG(there->st_mode) && !S_ISDIR(there->st_mode));
  }
};

/// Throws Error (bad_argument) for an empty name or a folder, Error (cannot_write) where it can't be looked at.
[[nodiscard]] Target target_of(const std::filesystem::path& file);
/// Throws Error (cannot_write).
void require_permission(const std::filesystem::path& file, const Target& target);

/// One file on its way from a passing name into its place; it can be taken back until it is settled.
class Move {
 public:
  Move(std::filesystem::path from, std::filesystem::path to) : from_(std::move(from)), to_(std::move(to)) {}

  /// 0, or the error's number. What was there takes the passing name.
  [[nodiscard]] int make();
  void take_back();
  /// What was replaced goes.
  void settle() const;

  [[nodiscard]] const std::filesystem::path& to() const { return to_; }

 private:
  enum class State { waiting, moved, exchanged };
  std::filesystem::path from_;
  std::filesystem::path to_;
  State state_ = State::waiting;
};

/// All of them, or none: then the place of the one that can't be moved, and the error's number.
[[nodiscard]] std::optional<std::pair<std::size_t, int>> make_all(std::vector<Move>& moves);
void bring_folder_to_disk(const std::filesystem::path& folder);

}  // namespace truecurve::placing
