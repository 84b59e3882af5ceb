// The topics of truecurve help; the manual pages are made from the same text.
#include "topics.hpp"

namespace truecurve::app {

const std::vector<Topic>& topics() {
  static const std::vector<Topic> all = {{"tables", "how a table of measurements is read", R"text(
A table is text with one row per line; fields are separated by commas, semicolons, tabs, bars or blanks, and a decimal comma is
recognised where commas do not separate. Compressed files (gzip) and UTF-16 are read as well. A row holds the names, with the unit in
brackets or in a row of units beneath; title lines above it are skipped, which is said (--skip N skips N lines):

    t (min), T (°C), u(T)

A column headed u(NAME) holds the standard uncertainties of NAME and is used automatically. An empty cell, NA or - is a missing
value; its row is left out, and the report says so. Lines that begin with # or % are comments. Rows are counted from 1, the header and
comments not included. A cell such as 2.1±0.1 or 2.13(15) is a value with its standard uncertainty; dates and times count from the first.

Columns are chosen by name or by their whole header; where a table has two columns of numbers, --x and --y may be omitted. In an
equation a header of several words stands as it is or between single quotation marks; a header with other signs needs the marks:

    truecurve fit oven.csv line --x "Time elapsed" --y T
    truecurve fit oven.csv "T = a + b*Time elapsed"
    truecurve fit oven.csv "T = a + b*'c-Pb'"

In an equation x and y stand for the columns of --x and --y.

A cell such as <0.05 or >1e7 is a limit (a censored value): leaving its row out, or entering the limit, biases the result. How such
rows count is said under the topic limits.
)text"},
                                         {"models", "how a model is written", R"text(
A model is an equation in ordinary mathematics. A name that is a column is data; every other name is a parameter.

    T = T_s + (T_0 - T_s)*exp(-t/tau)

There are + - * / ^ and brackets; exp ln log10 log2 sqrt cbrt abs sin cos tan asin acos atan sinh cosh tanh erf erfc min max;
pi; comparisons with and, or, not; and cases:

    y = cases(t < t0: a + b*t, otherwise: c)

A product is written with its sign: 2*x. Typeset signs are what they look like: x², √x, a·b, ≤, π. A left side such as ln(y), 1/y or y/x is the linearized route: the uncertainties of y are
carried through it, and the results speak of y again.

A named shape takes --x and --y, and finds its own starting values: line, polynomial(3), exponential, arrhenius ...
truecurve shapes lists them all with their formulas.

The fitted equation with its numbers, ready to copy: --equation text, latex, c, cpp or spreadsheet (--cell B7).
)text"},
                                         {"uncertainty", "stated uncertainties, or the scatter of the data", R"text(
With stated uncertainties (a column u(NAME), or --u) the rows are weighted by 1/u², and the uncertainties of the parameters are
propagated from them; chi-squared then tests whether the data agree with them. Intervals use the normal distribution.

Without them the scale is estimated from the residuals. Intervals use Student's t, and no chi-squared test is possible: residuals
cannot test a scale that was estimated from them.

    --u y=u_y                  a column
    --u y=0.2                  a number, in the unit of y
    --u y=1.5%                 a percentage of y, taken at the fitted curve
    --u y=none                 do not use a column u(y)
    --uncertainty scatter      use the stated values as relative weights only
    --spread proportional      without stated values: the scatter grows with y

Every report says in a sentence which was used. With relative uncertainties of 15 % and more intervals are approximate.
)text"},
                                         {"counts", "events of trials, and counts", R"text(
A response that says whether something happened, how often among so many trials, or how many were counted is fitted by maximum
likelihood; its scatter follows from its mean, and no uncertainty is stated for it.

    --event cracked            the word (or 0 or 1) in the response's column for which it happened
    --trials n                 the response counts events among so many trials: a column, or one number
    --counts                   the response is a count
    --exposure dt              of counts: the time, volume or area of each; the curve then is a rate

The curve is the probability of the event, or the mean count. The shapes share-logistic, share-normal and share-weakest-link have the
middle and the width of an edge as parameters, over ln(x) with -ln at the end, and with other limits than 0 and 1 as
share-logistic(floor), (ceiling) or (floor, ceiling). Any equation will do; a left side such as ln(p/(1-p)) is a link, and
--y names the column of events that p is the probability of:

    truecurve fit castings.csv "ln(p/(1-p)) = a + b*T" --y state --event cracked

calibrate --counts takes counts of standards and blanks, with detection limits that are exact at small counts.

Intervals are those of the profile likelihood. --uncertainty scatter multiplies the uncertainties by the root of the dispersion,
where rows scatter more than their distribution. Where the outcomes are separated, one end of the steepness is all there is to know;
--penalised gives a finite estimate by Firth's (1993) penalty, of a curve behind a link.
)text"},
                                         {"limits", "results of which only a limit is known", R"text(
Cells such as <0.05 and >1e7 are taken as limits where the distribution of single results about the curve is said:

    --distribution lognormal   normal, lognormal (the curve is the median) or weibull (the curve is the scale)
    --censored end             a column of the words none, below and above, where the cells hold numbers alone
    --quantiles 0.01,0.5       shares whose quantiles are shown: 0.01 for the life that 99 % survive
    --quantiles-at S=90        where, of a curve with predictors
    --figure-probability FILE  the probability plot

The scatter is estimated with the curve, by maximum likelihood; intervals are those of the profile likelihood. A curve without a
predictor is a constant:

    truecurve fit rinse.csv "c_Pb = median" --distribution lognormal --quantiles 0.5,0.95
)text"},
                                         {"rows", "leaving rows out, hold-out data", R"text(
Rows are left out only on request or when a value is missing, and every case is reported. --leave-out takes numbers, with a reason if you like, or a condition:

    --leave-out 3,7,29..32
    --leave-out "36: mistyped, the notebook says 26.57"
    --leave-out "t > 50"
    --leave-out invalid        rows a transform can't take, such as zeros for ln(y)

Reasons are kept in the record and shown in the report. truecurve compare --hold-out "years > 25" keeps rows out of the fits and
shows how well each candidate predicts them. fit --rows lists every row with its residual. --order COLUMN names the order of measurement, along which drift is looked for.
)text"},
                                         {"starts", "starting values, limits and fixed parameters", R"text(
A curve finds its own starting values, and looks for other minima from several of them. What you know can be given:

    --start tau=40             where the search begins
    --fix T_s=24               a parameter that is not fitted
    --within tau=0..           limits, either side may be left open

truecurve preview draws the curve at its starting values before any fit. A parameter that ends at its limit is named, and has no
symmetric interval. Where the data give one end only ("n is at least 36"), as a step between two rows does, it is held there, too.
)text"},
                                         {"intervals", "what an interval means", R"text(
A parameter is shown as 1.8673(47): the number in brackets is its standard uncertainty, in units of the last digits or, where it
contains a decimal point, in full: 22.7(1.3). Its interval is the estimate plus and minus k standard uncertainties; --level sets the
confidence level (default: 0.95).

For a nonlinear model that interval can be inaccurate. The report then adds the profile interval: the values of a parameter for which
chi-squared (or the sum of squares), minimised over the other parameters, stays below its limit. --interval profile shows the profile
intervals, --figure-profiles draws them.

A confidence band says where the curve lies; a prediction band where the next reading is expected.
)text"},
                                         {"candidates", "how candidates are given to compare", R"text(
A candidate is a model or a shape, followed after semicolons by options for that candidate alone:

    arrhenius
    "polynomial(1..5)"
    "arrhenius; linearized"
    "y = a*exp(-k*x) + c; start k=0.1; fix c=0; name decay"
    "power; spread proportional"
    "line; u none"

All are compared on the scale of the measured response, over the same rows: AICc, leave-one-out error, F tests where one contains the
other. A suggestion is made with its reason, and candidates that are about equally well supported are named.
)text"},
                                         {"calibration", "standards, blanks, unknowns", R"text(
truecurve calibrate makes a line from standards, replicates and blanks, and writes a record; truecurve quantify reads unknowns
through that record.

    truecurve calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both --output lead.json
    truecurve quantify lead.json demo/lead_unknowns.csv

A column called kind distinguishes standard, blank, fortified, sample and control; sample names what was measured, dilution by how
much it was diluted. A suspect replicate is flagged and never removed automatically. Detection limits are given by several methods,
each with its assumptions.
)text"},
                                         {"records", "what is kept, and how it is used further", R"text(
--output FILE.json keeps a result with full precision, together with the checksum of its data and the rows that were left out and
why. predict, solve, derive and quantify read such a record, so that no rounded number is ever retyped:

    truecurve fit demo/density.csv "polynomial(2)" --x w_Sn --y rho --output density.json
    truecurve predict density.json --at w_Sn=18,20,22

--format json prints the record instead of the text, --format csv a table. docs/formats.md describes every field.
)text"},
                                         {"figures", "what can be drawn", R"text(
A figure is a file: .png (1280 x 800), .svg or .pdf (A4 across).

    --figure FIT.png           the curve with its bands over the rows, and the residuals
    --figure-checks C.png      the residuals: their scatter, their distribution, their order
    --figure-profiles P.png    the profile of each parameter
    --figure-regions R.png     the joint region of each pair of parameters
    --log-axis x               a logarithmic axis; x, y or both
    --show-equation            the equation with its numbers, n, S and R²
    --title TEXT --label-x TEXT --label-y TEXT
    --range-x 0..60            where an axis begins and ends; --range-y alike
    --size 160x100mm           or in pixels: 800x500

look draws a smooth guide before any fit, preview the curve at its starting values, compare the candidates together, calibrate the line with its
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
    1    an internal error
    2    wrong usage, or a model text that can't be read
    3    data that can't be used
    4    the fit failed, or its result can't be trusted
    5    an output could not be written; no partial file is left

Results go to standard output, remarks to standard error. On a terminal, something that takes longer than a second says what it is doing;
--no-progress keeps it silent. NO_COLOR is honoured.
)text"}};
  return all;
}

}  // namespace truecurve::app
