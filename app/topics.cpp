// The topics of truecurve help; the manual pages are made from the same text.
#include "topics.hpp"

namespace truecurve::app {

const std::vector<Topic>& topics() {
  static const std::vector<Topic> all = {{"tables", "how a table of measurements is read", R"text(
A table is text with one row a line; fields are separated by commas, semicolons, tabs or blanks, and a decimal comma is
recognised where commas do not separate. The first row holds the names, with the unit in brackets:

    t (min), T (°C), u(T)

A column headed u(NAME) holds the standard uncertainties of NAME and is used without being asked for. An empty cell, NA or - is
a missing value; its row is left out and that is said. Lines that begin with # are comments. Rows are counted from 1, the header
and comments not included.

A column whose header is no plain name gets one:

    truecurve fit oven.csv "T = a + b*t" --alias t="Time elapsed"
)text"},
                                         {"models", "how a model is written", R"text(
A model is an equation in ordinary mathematics. A name that is a column is data; every other name is a parameter.

    T = T_s + (T_0 - T_s)*exp(-t/tau)

There are + - * / ^ and brackets; exp ln log10 log2 sqrt cbrt abs sin cos tan asin acos atan sinh cosh tanh erf erfc min max;
pi; comparisons with and, or, not; and cases:

    y = cases(t < t0: a + b*t, otherwise: c)

A product is written with its sign: 2*x. A left side such as ln(y), 1/y or y/x is the linearized route: the uncertainties of y are
carried through it, and the results speak of y again.

A named shape needs --x and --y instead, and finds its own starts: line, polynomial(3), exponential, arrhenius ... truecurve
shapes lists them all with their formulas.
)text"},
                                         {"uncertainty", "stated uncertainties, or the scatter of the rows", R"text(
With stated uncertainties (a column u(NAME), or --u) the rows are weighed by 1/u², and the uncertainties of the parameters follow
from them as they stand; chi-squared then says whether the rows agree with them. Intervals use the normal distribution.

Without them the scatter of the rows about the curve sets the scale. Intervals use Student's t, and no chi-squared test is possible:
the scatter can't be judged by itself.

    --u y=u_y                  a column
    --u y=0.2                  a number, in the unit of y
    --u y=1.5%                 a percentage of y
    --u y=none                 a column u(y) is not to be used
    --uncertainty scatter      the stated ones say only how rows compare
    --spread proportional      without stated ones: the scatter grows with y

Every report says in a sentence which was used.
)text"},
                                         {"rows", "leaving rows out, holding rows back", R"text(
No row is ever left out without being asked for or said. --leave-out takes numbers, with a reason if you like, or a condition:

    --leave-out 3,7
    --leave-out "36: mistyped, the notebook says 26.57"
    --leave-out "t > 50"
    --leave-out invalid        rows a transform can't take, such as zeros for ln(y)

Reasons are kept in the record and shown in the report. truecurve compare --hold-out "years > 25" keeps rows out of the fits and
shows how well each candidate predicts them.
)text"},
                                         {"starts", "starts, limits and held parameters of a curve", R"text(
A curve finds its own starts, and looks for other minima from several. What you know can be said:

    --start tau=40             where the search begins
    --fix T_s=24               a parameter that is held
    --within tau=0..           limits, either side may be left open

truecurve preview draws the curve at its starts before any fit. A parameter that ends at its limit is named, and has no symmetric
interval.
)text"},
                                         {"intervals", "what stands behind an interval", R"text(
A parameter is shown as 1.8673(47): the digits in brackets are its standard uncertainty in the last places. Its interval is the estimate
plus and minus k standard uncertainties; --level sets the level, 0.95 if not given.

The curve of a model that is not linear may make that interval wrong. Then the profile is told: how far a parameter can move before
chi-squared rises too much, when the others follow. Where both differ, the report says which to trust; --interval profile shows
the profile, --figure-profiles draws it.

A band of the curve says where the curve lies; a band of a new observation where the next reading is expected.
)text"},
                                         {"candidates", "how candidates are given to compare", R"text(
A candidate is a model or a shape, and after semicolons what holds for it alone:

    arrhenius
    "polynomial(1..5)"
    "arrhenius; linearized"
    "y = a*exp(-k*x) + c; start k=0.1; fix c=0; name decay"
    "power; spread proportional"
    "line; u none"

All are judged on the scale of the measured response, over the same rows: AICc, leave-one-out error, F-tests where one contains the other.
A suggestion is made with its reason, and candidates that the rows can't tell apart are named.
)text"},
                                         {"calibration", "standards, blanks, unknowns", R"text(
truecurve calibrate makes a line from standards, replicates and blanks, and writes a record; truecurve quantify reads unknowns
through that record.

    truecurve calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both --output lead.json
    truecurve quantify lead.json demo/lead_unknowns.csv

A column called kind tells standard, blank, fortified, sample and control apart; sample names what was measured, dilution by how much
it was diluted. A suspicious replicate is named and never removed by itself. Detection limits are shown by each route with what it rests on.
)text"},
                                         {"records", "what is kept, and how it is read on", R"text(
--output FILE.json keeps a result with full precision, together with the checksum of its data and the rows that were left out and
why. predict, solve, derive and quantify read such a record, so that no rounded number is ever typed again:

    truecurve fit demo/density.csv "polynomial(2)" --x w_Sn --y rho --output density.json
    truecurve predict density.json --at w_Sn=18,20,22

--format json prints the record instead of the text, --format csv a table. docs/formats.md describes every field.
)text"},
                                         {"figures", "what can be drawn", R"text(
A figure is a file: .png (1280 x 800), .svg or .pdf.

    --figure FIT.png           the curve with its bands over the rows, and the residuals
    --figure-checks C.png      the residuals against what might explain them
    --figure-profiles P.png    how chi-squared rises along each parameter
    --figure-regions R.png     the joint region of each pair of parameters
    --log-axis x               a logarithmic axis; x, y or both

look draws a smooth guide before any fit, preview the curve at its starts, compare the candidates together, calibrate the line with its
limits, quantify how one sample is read.
)text"},
                                         {"studies", "a whole analysis in one file", R"text(
A study file (TOML) names the data and the tasks in the order of the work:

    [study]
    title = "Density of bronze"
    [data.castings]
    file = "density.csv"
    x = "w_Sn"
    y = "rho"
    [[task]]
    name = "ladder"
    command = "compare"
    data = "castings"
    candidates = ["polynomial(1..5)"]
    figure = true

    truecurve run density.toml --into results

Every long option of a command is a key. The folder then holds a record, the text and the figures of each task, and report.html. The same
input gives the same bytes; if a task fails, nothing is kept. --check looks at the file only.
)text"},
                                         {"exits", "exit codes", R"text(
    0    done
    1    an internal fault
    2    wrong usage, or a model text that can't be read
    3    data that can't be used
    4    the fit failed, or its result can't be trusted
    5    an output could not be written; nothing half-written is left

Results go to standard output, remarks to standard error. On a terminal, something that takes longer than a second says what it is doing;
--no-progress keeps it silent. NO_COLOR is honoured.
)text"}};
  return all;
}

}  // namespace truecurve::app
