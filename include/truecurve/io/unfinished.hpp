// What is being written, under a name of its own until it is whole.
//
// Example:
//     const auto folder = std::filesystem::temp_directory_path();
//     truecurve::Unfinished note(folder / "truecurve-note.txt");
//     EXPECT_EQ(note.path().parent_path(), folder);
//     EXPECT_FALSE(std::filesystem::exists(folder / "truecurve-note.txt"));
#pragma once

#include <filesystem>
#include <system_error>

namespace truecurve {

/// The temporary name beside a file or folder that is being made, `TARGET.PID.part`. What stands under it is removed at
/// the end, so that a failure leaves nothing half-written.
class Unfinished {
 public:
  explicit Unfinished(std::filesystem::path target);
  ~Unfinished();
  Unfinished(const Unfinished&) = delete;
  Unfinished& operator=(const Unfinished&) = delete;

  /// The temporary name; whoever writes makes the file or folder.
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] const std::filesystem::path& target() const { return target_; }

  /// Gives the file its own name; a file of that name is replaced in one step.
  [[nodiscard]] std::error_code take_place() const;

 private:
  std::filesystem::path target_;
  std::filesystem::path path_;
};

/// Removes all that is being written in this process, and lets nothing new begin: for a program that has been told to
/// stop and ends right after it. Not for a signal handler itself: call it from a thread that waits for the signal.
void remove_unfinished() noexcept;

}  // namespace truecurve
