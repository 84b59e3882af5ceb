// Lists and tables of numbers as they cross the public face: plain values of ours, whatever library and compiler flags
// a caller has. What they are computed with stays inside; truecurve/base/eigen.hpp maps them to Eigen on request.
//
// Example:
//     const truecurve::Vector masses = {1.5, 2, 2.5};
//     const truecurve::Vector copied(std::vector<float>{1, 2, 3});
//     EXPECT_EQ(masses.size(), 3u);
//     EXPECT_EQ(copied[2], 3);
//     truecurve::Matrix unit(2, 2);
//     unit(0, 0) = unit(1, 1) = 1;
//     EXPECT_EQ(unit.numbers().size(), 4u);
#pragma once

#include <concepts>
#include <cstddef>
#include <initializer_list>
#include <iterator>
#include <span>
#include <type_traits>
#include <utility>
#include <vector>

namespace truecurve {

class Vector;
class Matrix;
class Observations;

namespace detail {

template <typename T>
concept Listed = requires(const T& list) {
  { *std::begin(list) } -> std::convertible_to<double>;
  {std::end(list)};
  { list.size() } -> std::convertible_to<std::size_t>;
};
template <typename T>
concept Text = std::same_as < std::remove_cvref_t<decltype(*std::begin(std::declval<const T&>()))>,
char > ;
template <typename T>
concept Shaped = requires(const T& table) {
  { table.rows() } -> std::convertible_to<std::size_t>;
  { table.cols() } -> std::convertible_to<std::size_t>;
};
template <typename T>
concept ReadByPlace = requires(const T& table) {
  { table(0, 0) } -> std::convertible_to<double>;
};
// An expression of a library of linear algebra.
template <typename T>
concept StillToBeComputed = requires(const T& expression) {
  {expression.eval()};
};

}  // namespace detail

/// Any finite list whose elements convert to double: std::vector, std::array, std::span, a vector of a library of
/// linear algebra. A text is none.
template <typename T>
concept NumberList = detail::Listed<T> && !detail::Text<T> && !std::same_as<T, Vector>;

/// Any table whose elements are read as table(row, column), now or once it is computed.
template <typename T>
concept NumberTable = detail::Shaped<T> &&
    (detail::ReadByPlace<T> || detail::StillToBeComputed<T>)&&!std::same_as<T, Matrix>;

/// A list of numbers that owns them, but for one that was lent (Observations::borrowed), whose copies do. Elements are
/// counted from 0; none is checked to be within. None of these throws an Error of its own.
class Vector {
 public:
  using value_type = double;

  Vector() noexcept = default;
  /// `size` times the same number.
  explicit Vector(std::size_t size, double number = 0) : numbers_(size, number) {}
  Vector(std::initializer_list<double> numbers) : numbers_(numbers) {}
  /// Takes the caller's numbers over without a copy.
  Vector(std::vector<double>&& numbers) noexcept : numbers_(std::move(numbers)) {}  // NOLINT: a list is a list
  /// A copy of any list of numbers; one that is still to be computed is computed once.
  template <NumberList List>
  Vector(const List& list) {  // NOLINT
    if constexpr (detail::StillToBeComputed<List>) {
      const auto& numbers = list.eval();
      numbers_.assign(numbers.begin(), numbers.end());
    } else {
      numbers_.assign(std::begin(list), std::end(list));
    }
  }
  Vector(const Vector& other) : numbers_(other.begin(), other.end()) {}
  Vector(Vector&& other) noexcept : numbers_(std::move(other.numbers_)), lent_(std::exchange(other.lent_, {})) {}
  Vector& operator=(const Vector& other) {
    if (this != &other) {
      numbers_.assign(other.begin(), other.end());
      lent_ = {};
    }
    return *this;
  }
  Vector& operator=(Vector&& other) noexcept {
    numbers_ = std::move(other.numbers_);
    lent_ = std::exchange(other.lent_, {});
    return *this;
  }
  ~Vector() = default;

  [[nodiscard]] std::size_t size() const noexcept { return lent_.empty() ? numbers_.size() : lent_.size(); }
  [[nodiscard]] bool empty() const noexcept { return size() == 0; }
  [[nodiscard]] double operator[](std::size_t i) const noexcept { return data()[i]; }
  [[nodiscard]] double& operator[](std::size_t i) { return data()[i]; }
  [[nodiscard]] const double* data() const noexcept { return lent_.empty() ? numbers_.data() : lent_.data(); }
  /// Numbers that were lent are copied first.
  [[nodiscard]] double* data() {
    if (!lent_.empty()) *this = Vector(*this);
    return numbers_.data();
  }
  [[nodiscard]] const double* begin() const noexcept { return data(); }
  [[nodiscard]] const double* end() const noexcept { return data() + size(); }
  [[nodiscard]] double* begin() { return data(); }
  [[nodiscard]] double* end() {
    double* const first = data();
    return first + numbers_.size();
  }

  /// Equal length and equal numbers; NaN is equal to nothing.
  friend bool operator==(const Vector& a, const Vector& b) noexcept {
    if (a.size() != b.size()) return false;
    for (std::size_t i = 0; i < a.size(); ++i) {
      if (a[i] != b[i]) return false;
    }
    return true;
  }

 private:
  friend class Observations;
  static Vector lent(std::span<const double> numbers) {
    Vector made;
    made.lent_ = numbers;
    return made;
  }
  std::vector<double> numbers_{};
  std::span<const double> lent_{};  // not empty: the numbers are the caller's
};

/// A table of numbers that owns them, stored column by column. Rows and columns are counted from 0; none is checked to
/// be within. None of these throws an Error of its own.
class Matrix {
 public:
  using value_type = double;

  Matrix() noexcept = default;
  /// Filled with zeros.
  Matrix(std::size_t rows, std::size_t cols) : rows_(rows), cols_(cols), numbers_(rows * cols) {}
  /// A copy of any table of numbers; one that is still to be computed is computed once.
  template <NumberTable Table>
  Matrix(const Table& table)  // NOLINT: a table is a table
      : Matrix(static_cast<std::size_t>(table.rows()), static_cast<std::size_t>(table.cols())) {
    if constexpr (detail::StillToBeComputed<Table>) {
      copy(table.eval());
    } else {
      copy(table);
    }
  }

  [[nodiscard]] std::size_t rows() const noexcept { return rows_; }
  [[nodiscard]] std::size_t cols() const noexcept { return cols_; }
  [[nodiscard]] double operator()(std::size_t row, std::size_t col) const noexcept {
    return numbers_[col * rows_ + row];
  }
  [[nodiscard]] double& operator()(std::size_t row, std::size_t col) noexcept { return numbers_[col * rows_ + row]; }
  /// All numbers, column by column.
  [[nodiscard]] std::span<const double> numbers() const noexcept { return numbers_; }
  [[nodiscard]] std::span<double> numbers() noexcept { return numbers_; }

  /// Equal shape and equal numbers; NaN is equal to nothing.
  friend bool operator==(const Matrix&, const Matrix&) = default;

 private:
  template <typename Table>
  void copy(const Table& table) {
    using Index = decltype(table.rows());
    for (Index j = 0; j < table.cols(); ++j) {
      for (Index i = 0; i < table.rows(); ++i)
        (*this)(static_cast<std::size_t>(i), static_cast<std::size_t>(j)) = table(i, j);
    }
  }

  std::size_t rows_ = 0;
  std::size_t cols_ = 0;
  std::vector<double> numbers_{};
};

}  // namespace truecurve
