// PLplot: its cairo driver for PNG and PDF, its SVG driver because that one keeps text as text.
#include "canvas.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/visible.hpp>

#include "plotting.hpp"
#include "tidy_svg.hpp"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <numbers>
#include <string_view>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// An ordinary page, on which letters, points and lines have the sizes of style.hpp.
constexpr double ordinary_width = 1280;
constexpr double ordinary_height = 800;
constexpr double a4_width = 297;  // ISO 216, in mm
constexpr double a4_height = 210;
constexpr double tick_mm = 1.2;
constexpr double page_edge = 0.985;  // where texts end

std::mutex& plplot_turn() {
  static std::mutex turn;
  return turn;
}

// PLplot ends the process on a fault of its driver unless this throws first.
int on_fault(const char* message) {
  throw Error(
      {.code = ErrorCode::cannot_write,
       .message = fmt::format("the figure can't be drawn: {}", message),
       .subject = "figure",
       .remedy =
           "check that PLplot's cairo driver is installed, and that there is room in the temporary folder (TMPDIR), "
           "which PLplot writes to"});
}

const char* driver_for(const std::filesystem::path& file) {
  const std::string ending = file.extension().string();
  if (ending == ".png") return "pngcairo";
  if (ending == ".svg") return "svg";
  if (ending == ".pdf") return "pdfcairo";
  throw Error(
      {.code = ErrorCode::bad_argument,
       .message = fmt::format("a figure ends in .png, .svg or .pdf, and this is '{}'", file.filename().string()),
       .subject = "figure",
       .value = file.string(),
       .remedy = "choose one of these endings"});
}

// Without its driver PLplot asks on the terminal which one to take, and waits.
void require_driver(const std::string& driver) {
  constexpr int most = 100;
  const char* menus[most] = {};
  const char* names[most] = {};
  const char** menu = menus;
  const char** name = names;
  int count = most;
  plgDevs(&menu, &name, &count);
  for (int i = 0; i < count; ++i) {
    if (names[i] != nullptr && driver == names[i]) return;
  }
  throw Error({.code = ErrorCode::not_supported,
               .message = fmt::format("the drawing library has no driver '{}'", driver),
               .subject = "figure",
               .remedy = driver == "svg" ? "install the whole of PLplot (libplplot17)"
                                         : "install PLplot's cairo driver (plplot-driver-cairo), or draw an .svg"});
}

// '#' begins a command in PLplot's texts.
std::string escaped(const std::string& text) {
  std::string result;
  for (const char c : text) {
    if (c == '#') result += '#';
    result += c == '\n' || c == '\t' ? ' ' : c;
  }
  return result;
}

// A page in the dots of its format, and how many of them an inch has; of PDF these are points.
struct Page {
  double width, height;
  double an_inch;
};

Page page_of(const std::filesystem::path& file, FigureSize size) {
  const std::string ending = file.extension().string();
  if (size.width == 0 && size.height == 0 && ending != ".pdf") size = {ordinary_width, ordinary_height};
  if (size.width == 0 && size.height == 0) size = {a4_width, a4_height, LengthUnit::millimetre};
  const bool in_mm = size.unit == LengthUnit::millimetre;
  const double an_inch = ending == ".pdf" ? 72 : ending == ".png" && in_mm ? 300 : 96;
  const double dots = in_mm ? an_inch / mm_an_inch : an_inch / 96;
  const Page made{std::round(size.width * dots), std::round(size.height * dots), an_inch};
  constexpr double fewest = 150;
  constexpr double most = 10'000;
  if (made.width >= fewest && made.height >= fewest && made.width <= most && made.height <= most) return made;
  const char* const unit = in_mm ? "mm" : "pixels";
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("a figure of {} x {} {} can't be drawn", shortest(size.width),
                                      shortest(size.height), unit),
               .subject = "size",
               .remedy = fmt::format("choose {:.0f} to {:.0f} {} each way", std::ceil(fewest / dots),
                                     std::floor(most / dots), unit)});
}

// How much larger letters are than those that grow with the page, whose height in dots is `ordinary`.
double letters_of(const Page& page, double points, double ordinary) {
  if (points == 0) return 1;
  constexpr double smallest = 0.5;
  constexpr double largest = 3;
  const double in_points = 72 / page.an_inch;
  const double letters = points / (ordinary * in_points);
  if (letters >= smallest && letters <= largest) return letters;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("letters of {} points do not fit a figure of this size", shortest(points)),
               .subject = "font",
               .value = shortest(points),
               .remedy = fmt::format("choose {:.1f} to {:.1f} points, or another size of the figure",
                                     std::ceil(10 * smallest * ordinary * in_points) / 10,
                                     std::floor(10 * largest * ordinary * in_points) / 10)});
}

}  // namespace

Canvas::Canvas(const std::filesystem::path& file, const FigureSize& size) : file_(file) {
  const char* const driver = driver_for(file);
  const Page page = page_of(file, size);
  width_ = page.width;
  height_ = page.height;
  zoom_ = std::min(width_ / ordinary_width, height_ / ordinary_height);
  letters_ = letters_of(page, size.font, text_mm * zoom_ * dots_per_mm);
  require_writable(file);
  plplot_turn().lock();
  try {
    plsexit(&on_fault);
    require_driver(driver);
    plsdev(driver);
    plsfile(picture_.open());
    plspage(96, 96, static_cast<PLINT>(width_), static_cast<PLINT>(height_), 0, 0);
    plscolbg(paper.red, paper.green, paper.blue);
    plsetopt("drvopt", "text_clipping=0");
    plinit();
    open_ = true;
    plfontld(0);
    plsfci(0x80000000);  // upright sans serif in every driver
    pladv(0);
    whole_page();
  } catch (...) {
    picture_.close();
    plplot_turn().unlock();
    throw;
  }
}

Canvas::~Canvas() {
  if (open_) {
    try {
      plend();
    } catch (...) {  // the picture is dropped anyway
    }
  }
  picture_.close();
  plplot_turn().unlock();
}

void Canvas::finish() {
  plend();
  open_ = false;
  picture_.close();
  write_file(file_, file_.extension() == ".svg" ? tidy_svg(picture_.bytes()) : picture_.bytes());
}

void Canvas::thickness(double width) const { plwidth(width * zoom_); }

void Canvas::pattern(LineStyle style) const {
  // Marks and gaps in micrometres on an ordinary page.
  static const std::vector<std::vector<PLINT>> marks = {{}, {1600}, {350}, {2200, 350}, {3600}};
  static const std::vector<std::vector<PLINT>> gaps = {{}, {1100}, {900}, {900, 900}, {1000}};
  const auto at = static_cast<std::size_t>(style);
  if (marks[at].empty()) {
    pllsty(1);
    return;
  }
  std::vector<PLINT> scaled_marks = marks[at];
  std::vector<PLINT> scaled_gaps = gaps[at];
  for (auto* lengths : {&scaled_marks, &scaled_gaps}) {
    for (PLINT& length : *lengths) length = std::max(1, static_cast<PLINT>(std::lround(length * zoom_)));
  }
  plstyl(static_cast<PLINT>(scaled_marks.size()), scaled_marks.data(), scaled_gaps.data());
}

void Canvas::whole_page() {
  plvpor(0, 1, 0, 1);
  plwind(0, 1, 0, 1);
}

void Canvas::back_to_panel() {
  plvpor(frame_.left, frame_.right, frame_.bottom, frame_.top);
  // PLplot refuses windows narrower than its single-precision habits: data are mapped to 0..1 before they reach it.
  plwind(0, 1, 0, 1);
}

double Canvas::across_slope() const { return (1 - letters_ * (page_left + 1 - page_right)) / (page_right - page_left); }

double Canvas::across(double x) const {
  if (x <= page_left) return letters_ * x;
  if (x >= page_right) return 1 - letters_ * (1 - x);
  return letters_ * page_left + across_slope() * (x - page_left);
}

double Canvas::up(double y) const {
  if (y <= page_bottom) return letters_ * y;
  if (y >= panel_top) return 1 - letters_ * (1 - y);
  const double inner = (1 - letters_ * (page_bottom + 1 - panel_top)) / (panel_top - page_bottom);
  return letters_ * page_bottom + inner * (y - page_bottom);
}

double Canvas::row_step(double share) const {
  // On the page rows are as far apart as their letters are high; `up` shrinks what lies within the margins.
  return letters_ * share * (panel_top - page_bottom) / (1 - letters_ * (page_bottom + 1 - panel_top));
}

void Canvas::panel(const Frame& frame, const Ticks& x, const Ticks& y) {
  frame_ = {across(frame.left), across(frame.right), up(frame.bottom), up(frame.top)};
  x_ = x;
  y_ = y;
  back_to_panel();
}

namespace {
std::vector<double> shares(std::span<const double> values, const Ticks& ticks) {
  std::vector<double> result;
  result.reserve(values.size());
  for (const double value : values) result.push_back(ticks.share(value));
  return result;
}
}  // namespace

void Canvas::axes(const std::string& x_title, const std::string& y_title, Labels x_labels, Labels y_labels) {
  thickness(thin_width);
  use(ink);
  // On the page: the panel's own window would clip lines on its edge and ticks beyond it.
  whole_page();
  pljoin(frame_.left, frame_.bottom, frame_.right, frame_.bottom);
  pljoin(frame_.left, frame_.bottom, frame_.left, frame_.top);
  const auto page_x = [this](double value) { return frame_.left + x_.share(value) * (frame_.right - frame_.left); };
  const auto page_y = [this](double value) { return frame_.bottom + y_.share(value) * (frame_.top - frame_.bottom); };
  for (const double at : x_.at)
    pljoin(page_x(at), frame_.bottom, page_x(at), frame_.bottom - tick_mm * zoom_ * dots_per_mm / height_);
  for (const double at : y_.at)
    pljoin(frame_.left, page_y(at), frame_.left - tick_mm * zoom_ * dots_per_mm / width_, page_y(at));
  const double text_height = letters_mm() * dots_per_mm;
  if (x_labels == Labels::shown) {
    for (std::size_t i = 0; i < x_.at.size(); ++i) {
      put(page_x(x_.at[i]), frame_.bottom - 1.35 * text_height / height_, x_.labels[i], Horizontal::centre, 1, ink);
    }
    put((frame_.left + frame_.right) / 2, frame_.bottom - 3.1 * text_height / height_, x_title, Horizontal::centre, 1,
        ink);
  }
  for (std::size_t i = 0; i < y_.at.size() && y_labels == Labels::shown; ++i) {
    put(frame_.left - 0.8 * text_height / width_, page_y(y_.at[i]), y_.labels[i], Horizontal::right, 1, ink);
  }
  whole_page();
  plschr(letters_mm(), 1);
  use(ink);
  // Upright text along the axis: a slope of 90 degrees, given as a direction. It may be a little longer than its panel.
  const double height_in_widths = 1.1 * (frame_.top - frame_.bottom) * height_ / width_;
  plptex(frame_.left - 0.083 * letters_, (frame_.bottom + frame_.top) / 2, 0, 1, 0.5,
         escaped(cut(visible(y_title), height_in_widths, 1)).c_str());
  back_to_panel();
}

void Canvas::line(std::span<const double> x, std::span<const double> y, Colour colour, double width, LineStyle style) {
  use(colour);
  thickness(width);
  pattern(style);
  const std::vector<double> px = shares(x, x_);
  const std::vector<double> py = shares(y, y_);
  plline(static_cast<PLINT>(px.size()), px.data(), py.data());
  pllsty(1);
}

void Canvas::area(std::span<const double> x, std::span<const double> low, std::span<const double> high, Colour colour) {
  std::vector<double> px = shares(x, x_);
  std::vector<double> py = shares(low, y_);
  px.insert(px.end(), px.rbegin(), px.rend());
  std::vector<double> back = shares(high, y_);
  py.insert(py.end(), back.rbegin(), back.rend());
  for (double& value : py) value = std::clamp(value, -10.0, 10.0);
  use(colour);
  plpsty(0);
  plfill(static_cast<PLINT>(px.size()), px.data(), py.data());
}

void Canvas::disc(double x, double y, double scale, Colour colour) {
  const double radius = scale * point_radius_mm * zoom_ * dots_per_mm;
  use(colour);
  fill_disc(x, y, radius / (width_ * (frame_.right - frame_.left)), radius / (height_ * (frame_.top - frame_.bottom)));
}

void Canvas::points(std::span<const double> x, std::span<const double> y, double size, Colour colour) {
  // Many points are drawn smaller, so that their density still shows.
  const double scale = size * (x.size() > 1000 ? 0.45 : x.size() > 200 ? 0.7 : 1.0);
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double px = x_.share(x[i]);
    const double py = y_.share(y[i]);
    disc(px, py, 1.35 * scale, paper);
    disc(px, py, scale, colour);
  }
}

void Canvas::hollow_points(std::span<const double> x, std::span<const double> y) {
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double px = x_.share(x[i]);
    const double py = y_.share(y[i]);
    disc(px, py, 1.7, paper);
    disc(px, py, 1.4, point);
    disc(px, py, 0.9, paper);
  }
}

void Canvas::error_bars(std::span<const double> x, std::span<const double> y, std::span<const double> half) {
  std::vector<double> low(x.size());
  std::vector<double> high(x.size());
  for (std::size_t i = 0; i < x.size(); ++i) {
    low[i] = y[i] - half[i];
    high[i] = y[i] + half[i];
  }
  interval_bars(x, low, high);
}

void Canvas::interval_bars(std::span<const double> x, std::span<const double> lows, std::span<const double> highs) {
  use(detail::point);
  thickness(1.4);
  const double cap = 0.9 * zoom_ * dots_per_mm / (width_ * (frame_.right - frame_.left));
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double px = x_.share(x[i]);
    const double low = std::max(0.0, y_.share(lows[i]));
    const double high = std::min(1.0, y_.share(highs[i]));
    if (low > high) continue;
    pljoin(px, low, px, high);
    pljoin(px - cap, low, px + cap, low);
    pljoin(px - cap, high, px + cap, high);
  }
}

void Canvas::label(double x, double y, const std::string& words, Colour colour) {
  const auto outside = [](double share) { return !(share > -1e-6 && share < 1 + 1e-6); };
  if (outside(x_.share(x)) || outside(y_.share(y))) return;
  const double px = frame_.left + x_.share(x) * (frame_.right - frame_.left);
  const double py = frame_.bottom + y_.share(y) * (frame_.top - frame_.bottom);
  // On the side where there is room.
  const bool left = x_.share(x) > 0.9;
  put(px + (left ? -0.008 : 0.008), py, words, left ? Horizontal::right : Horizontal::left, 0.85, colour);
}

void Canvas::title(const std::string& words) { text(page_left, title_y, words, Horizontal::left, title_scale, ink); }

void Canvas::text(double x, double y, const std::string& words, Horizontal place, double scale, Colour colour) {
  put(across(x), up(y), words, place, scale, colour);
}

void Canvas::put(double x, double y, const std::string& words, Horizontal place, double scale, Colour colour) {
  whole_page();
  plschr(letters_mm(), scale);
  use(colour);
  const double just = place == Horizontal::left ? 0 : place == Horizontal::centre ? 0.5 : 1;
  // What leaves the page would be cut there without a sign, and the driver's memory is not made for long texts.
  const double room = place == Horizontal::left    ? page_edge - x
                      : place == Horizontal::right ? x - (1 - page_edge)
                                                   : 2 * std::min(x, page_edge - x);
  plptex(x, y, 1, 0, just, escaped(cut(visible(words), room, scale)).c_str());
  back_to_panel();
}

}  // namespace truecurve::detail
