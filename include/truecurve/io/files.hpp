// Files that are written whole or not at all, alone or several together.
//
// Example:
//     const truecurve::Workshop folder(std::filesystem::temp_directory_path() / "results");
//     {
//       truecurve::Together results;  // a record and its figure appear in one moment
//       truecurve::write_file(folder.path() / "a.txt", "first");
//       truecurve::write_file(folder.path() / "b.txt", "second");
//       EXPECT_FALSE(std::filesystem::exists(folder.path() / "a.txt"));
//       results.publish();
//     }
//     EXPECT_EQ(std::filesystem::file_size(folder.path() / "b.txt"), 6u);
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// Writes a whole file or nothing. The text goes to a file without a name in the same folder, is checked and brought to
/// the disk, and then takes its place in one step; what was there before stays until then. A link's target is replaced
/// and not the link, permissions are kept, and devices, FIFOs and the program's own streams (/dev/stdout) are written
/// to as they are. Throws Error: cannot_write, bad_argument (an empty name, a folder).
void write_file(const std::filesystem::path& file, std::string_view text);

/// Looks whether write_file() could write there, before anything is computed. Throws Error (bad_argument) for an empty
/// name or a folder, Error (cannot_write) where there is no such folder or no permission.
void require_writable(const std::filesystem::path& file);

/// Whether two names are those of one file: by what they lead to where both exist, else by where they would be made.
/// Devices and FIFOs, which may well be named twice, are one with nothing. Throws no Error of its own.
[[nodiscard]] bool is_same_file(const std::filesystem::path& a, const std::filesystem::path& b);

/// SHA-256 of a file's bytes, in hexadecimal (FIPS 180-4). Throws Error (file_not_found).
[[nodiscard]] std::string checksum_of(const std::filesystem::path& file);

/// While it lives, what this thread writes with write_file() is kept beside its place; publish() puts all of it into
/// place, or nothing where one can't be. What is not published is dropped. Each may stand within another, and then
/// takes what is written from then on.
class Together {
 public:
  /// Throws no Error of its own.
  Together();
  ~Together();
  Together(const Together&) = delete;
  Together& operator=(const Together&) = delete;

  /// Throws Error (cannot_write); all files are then as they were before.
  void publish();

  struct Files;

 private:
  std::unique_ptr<Files> files_;
  Together* outer_;
  friend void write_file(const std::filesystem::path& file, std::string_view text);
};

/// A folder with a name that can't be foreseen, `.TARGET.XXXXXX.part` beside `target`, in which results are collected
/// until they are handed over. It goes with all that is in it.
class Workshop {
 public:
  /// Throws Error (cannot_write).
  explicit Workshop(std::filesystem::path target);
  ~Workshop();
  Workshop(const Workshop&) = delete;
  Workshop& operator=(const Workshop&) = delete;

  [[nodiscard]] const std::filesystem::path& path() const noexcept { return path_; }

  /// Moves its files into the target folder, each into the place of its like; other files there stay. All of them or,
  /// where one can't be moved, none. Throws Error: cannot_write, bad_argument (a folder where a file is to stand).
  void hand_over() const;

  /// Folders that runs which were killed have left beside `target`; those of runs that go on are not among them. Throws
  /// no Error: of a folder that can't be read it knows none.
  [[nodiscard]] static std::vector<std::filesystem::path> left_behind(const std::filesystem::path& target);

 private:
  std::filesystem::path target_;
  std::filesystem::path path_;
  int lock_ = -1;
};

/// Removes all that is being written in this process, and lets nothing new begin: for a program that has been told to
/// stop and ends right after it. Not for a signal handler itself: call it from a thread that waits for the signal.
void remove_unfinished() noexcept;

}  // namespace truecurve
