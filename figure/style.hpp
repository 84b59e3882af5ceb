// One look for all figures: colours, widths, sizes.
#pragma once

namespace truecurve::detail {

struct Colour {
  int red, green, blue;
};

// Dark blue against burnt orange: told apart with every common colour blindness, and in grey by their lightness.
inline constexpr Colour paper{255, 255, 255};
inline constexpr Colour ink{38, 44, 52};
inline constexpr Colour faint_ink{120, 128, 138};
inline constexpr Colour rule{222, 226, 231};
inline constexpr Colour point{24, 62, 112};
inline constexpr Colour curve{188, 82, 20};
inline constexpr Colour confidence{243, 199, 158};
inline constexpr Colour prediction{250, 236, 219};
inline constexpr Colour count_bar{170, 196, 222};  // of counts

// Curves side by side: told apart by colour, by lightness and by the kind of line that goes with each.
inline constexpr Colour candidates[] = {curve,          {0, 110, 150},  {20, 140, 90},  {140, 60, 140},
                                        {196, 146, 10}, {96, 100, 108}, {90, 170, 220}, {170, 30, 60}};

// Margins of the page, and where its title and its legend stand, as shares of width and height.
inline constexpr double page_left = 0.105;
inline constexpr double page_right = 0.975;
inline constexpr double page_bottom = 0.115;
inline constexpr double panel_top = 0.87;
inline constexpr double legend_y = 0.905;
inline constexpr double title_y = 0.955;

inline constexpr double curve_width = 2.2;
inline constexpr double thin_width = 1.0;
inline constexpr double text_mm = 4.0;  // height of ordinary text
inline constexpr double title_scale = 1.2;
inline constexpr double point_radius_mm = 0.9;

}  // namespace truecurve::detail
