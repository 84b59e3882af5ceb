// What columns are called in formulas for other programs.
#include "../../src/assess/formula_names.hpp"

#include "../support.hpp"

namespace truecurve {
namespace {

TEST(FormulaNames, AreIdentifiersOfTheirOwn) {
  detail::Identifiers identifiers;
  for (const auto& [name, wanted] : {std::pair{"T_oven", "T_oven"},
                                     {"azAZ09", "azAZ09"},
                                     {"Drying time", "Drying_time"},
                                     {"T (°C)", "T_C"},
                                     {"Wandstärke", "Wandst_rke"},
                                     {"__x__", "x"},
                                     {"°", "quantity"},
                                     {"0 theta", "x_0_theta"},
                                     {"9", "x_9"},
                                     {"int", "int_"},
                                     {"exp", "exp_"},
                                     {"T oven", "T_oven_2"},
                                     {"T-oven", "T_oven_3"},
                                     {"%", "quantity_2"},
                                     {"int ", "int__2"}})
    EXPECT_EQ(identifiers.of(name), wanted) << name;
  EXPECT_EQ(detail::Identifiers().of("T oven"), "T_oven");
}

TEST(FormulaNames, AreSetAsMathematics) {
  for (const auto& [name, wanted] : {std::pair{"x", "x"},
                                     {"Z", "Z"},
                                     {"alpha", "\\alpha"},
                                     {"Omega", "\\Omega"},
                                     {"alphabet", "\\mathrm{alphabet}"},
                                     {"tau_w", "\\tau_{w}"},
                                     {"f_1", "f_{1}"},
                                     {"T_oven", "T_{\\mathrm{oven}}"},
                                     {"a_b_c", "a_{\\mathrm{b\\_c}}"},
                                     {"_x", "\\mathrm{\\_x}"},
                                     {"x_", "\\mathrm{x\\_}"},
                                     {"50 %", "\\mathrm{50\\ \\%}"},
                                     {"a#b{$&}", "\\mathrm{a\\#b\\{\\$\\&\\}}"},
                                     {"a^2", "\\mathrm{a\\hat{}2}"},
                                     {"a~b", "\\mathrm{a\\sim b}"},
                                     {"a\\b", "\\mathrm{a\\backslash b}"},
                                     {"°", "\\mathrm{°}"}})
    EXPECT_EQ(detail::latex_name(name), wanted) << name;
  EXPECT_EQ(detail::latex_name("y", "low"), "y_{\\mathrm{low}}");
  EXPECT_EQ(detail::latex_name("y_a", "new_low"), "y_{a,\\,\\mathrm{new\\ low}}");
}

TEST(FormulaNames, OfCellsChangeNoFormula) {
  for (const char* cell : {"A2", "$B$7", "Sheet1.B7", "Sheet1!B7", "my_cell", "z9", "Z0"})
    EXPECT_NO_THROW(detail::require_cell(cell)) << cell;
  for (const char* cell : {"", "A2)", "A 2", "A2;B2", "A2+1", "A:A", "'A'"})
    EXPECT_EQ(test::caught([&] { detail::require_cell(cell); }).code(), ErrorCode::bad_argument) << cell;
}

}  // namespace
}  // namespace truecurve
