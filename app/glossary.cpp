// The glossary of truecurve help.
#include "glossary.hpp"

#include <algorithm>
#include <cctype>

namespace truecurve::app {
namespace {

std::string small(std::string_view text) {
  std::string result(text);
  std::transform(result.begin(), result.end(), result.begin(), [](unsigned char c) { return std::tolower(c); });
  return result;
}

std::vector<std::string> words_of(const GlossaryEntry& entry) {
  std::vector<std::string> words = {small(entry.word)};
  for (std::size_t start = 0; start < entry.others.size();) {
    const std::size_t end = std::min(entry.others.find(';', start), entry.others.size());
    words.emplace_back(entry.others.substr(start, end - start));
    start = end + 1;
  }
  return words;
}

}  // namespace

const std::vector<GlossaryEntry>& glossary() {
  static const std::vector<GlossaryEntry> all = {
      {"AICc", "aic;akaike;akaike weight;information criterion",
       "A measure for comparing candidate models: twice the number of estimated parameters less twice the "
       "log-likelihood, corrected for few data. Only differences matter (ΔAICc): within 2 two candidates are about "
       "equally well supported, beyond 10 the one with the larger value has essentially no support. The Akaike weight "
       "turns the differences into shares that add up to 1. It does not tell whether any candidate is good. Source: "
       "Hurvich and Tsai (1989) Biometrika 76, 297; Burnham and Anderson (2002)."},
      {"BIC", "schwarz",
       "As AICc a measure for comparing models, with ln(n) in place of 2 for every parameter, which favours fewer "
       "terms. Source: Schwarz (1978) Ann. Statist. 6, 461."},
      {"Birge ratio", "birge;reduced chi-squared",
       "The root of chi-squared over the degrees of freedom. Near 1 the scatter of the data agrees with the stated "
       "uncertainties; above 1 the data scatter more. Multiplying all uncertainties by it makes the two agree. Source: "
       "Birge (1932) Phys. Rev. 40, 207."},
      {"blank", "blank reading",
       "A sample treated like the others that contains no analyte (or as good as none). Its mean reading is the offset "
       "of the method, its scatter limits what can be detected."},
      {"calibration line", "calibration;calibration curve;standard;standards",
       "The relation between known amounts (standards) and the signals they give, used the other way round to find the "
       "amount of an unknown. Source: ISO 8466-1; ISO/TS 28037:2010."},
      {"chi-squared", "chi2;chisq;chi-square;chi squared;χ²",
       "The sum of squares of the residuals, each divided by its stated standard uncertainty. If the curve and the "
       "uncertainties are right it is about as large as the degrees of freedom. Its p-value is the probability that it "
       "would come out at least as large; a small one suggests that the uncertainties are too small, the curve "
       "is unsuitable or a reading is wrong. Without stated uncertainties there is no chi-squared test. Source: ISO/TS "
       "28037:2010, "
       "6.3."},
      {"confidence band", "band;bands",
       "The range around a fitted curve within which the true curve lies, point by point, with the stated confidence "
       "level. It is narrower than the prediction band, which is for the next reading. Source: Draper and Smith "
       "(1998), 1.4."},
      {"confidence level", "level;confidence;confidence interval;coverage interval;interval",
       "How often an interval computed in this way covers the true value, in the long run: 95 % unless --level says "
       "otherwise. It is not the probability that this particular interval does. Source: JCGM 200:2012, 2.36 and "
       "2.37."},
      {"Cook's distance", "cook;cooks distance;influence;influential",
       "How far all estimates move when one row is left out, in units of their own uncertainty: it is large for a row "
       "with both a large residual and a high leverage. Above 1 the row deserves a look. Source: Cook (1977) "
       "Technometrics 19, 15."},
      {"correlation", "correlation coefficient;r",
       "Of two parameters: how much their estimates depend on one another, from -1 to 1. Near either end they must be "
       "used together with their covariance; giving x about its mean often removes most of it. The r of a straight "
       "line is another: that of x and y. Source: JCGM 100:2008, C.3.6."},
      {"covariance", "covariance matrix",
       "The matrix of the squared standard uncertainties of the parameters and, off the diagonal, of what they have in "
       "common: correlation times both uncertainties. It is what derived quantities and bands are computed from, and "
       "stands in every record. Source: JCGM 102:2011."},
      {"coverage factor", "k",
       "The number by which a standard uncertainty is multiplied to give the half width of an interval: 1.960 for 95 % "
       "where the uncertainties are stated, Student's t where they are estimated from the scatter. Source: JCGM "
       "100:2008, 2.3.6."},
      {"critical value", "decision limit;lc",
       "The amount above which a reading is declared to contain analyte: blanks exceed it with probability alpha "
       "(0.05). Source: ISO 11843-1."},
      {"degrees of freedom", "dof;df",
       "The number of data less the number of parameters estimated from them: what is left to judge the scatter by. "
       "With fewer than three the scatter is poorly known."},
      {"detection limit", "lod;mdl;minimum detectable value",
       "The true amount that is detected with probability 1 - beta (0.95), when blanks are declared to contain analyte "
       "with probability alpha (0.05). It is a property of the method; whether one sample contains analyte is decided "
       "at the critical value. Source: ISO 11843-2; Currie (1995) Pure Appl. Chem. 67, 1699."},
      {"deviance", "",
       "For events and counts what the sum of squares is for measured values: twice the difference between the "
       "greatest possible log-likelihood and that of the fit. Source: McCullagh and Nelder (1989), 2.3."},
      {"equal variance",
       "heteroscedasticity;homoscedasticity;heteroscedastic;fan;equal scatter;homogeneity of variance",
       "Whether the scatter is the same everywhere. Where it grows with the response, weights or a --spread are "
       "needed: without them large readings dominate the fit and the intervals are wrong. Source: Glejser (1969); ISO "
       "5725-2 for replicates."},
      {"equation", "formula;model",
       "The fitted curve with its numbers stands in every report, and --equation text, latex, c, cpp or spreadsheet "
       "prints it alone, with as many digits as reproduce the curve to a hundredth of its uncertainty. How a model is "
       "written is told by truecurve help models."},
      {"extrapolation", "extrapolate",
       "Reading a curve outside the data it was fitted to. The bands there hold only if the model does, which the data "
       "cannot show; the report says how far outside a point lies."},
      {"F test", "f;nested;extra term",
       "Compares a model with a larger one that contains it: whether the larger reduces the sum of squares by more "
       "than chance. Source: Draper and Smith (1998), 6.1."},
      {"Grubbs's test", "grubbs;straggler;cochran",
       "Asks whether the farthest of several replicates lies too far from the others: a straggler at 5 %, an outlier "
       "at 1 %. Cochran's test asks the same of the scatter of one level against the others. Source: ISO 5725-2:2019, "
       "8.3."},
      {"lack of fit", "lof;pure error",
       "With replicates the scatter can be split: what replicates differ by is pure error, what their means miss the "
       "curve by is lack of fit. An F test compares the two. Source: Draper and Smith (1998), 2.1."},
      {"leave-one-out", "loo;cross-validation;press;leave-one-out rmse",
       "Each row is predicted by a fit of all the others; the root mean square of these errors tells how well the "
       "curve predicts what it has not seen. Source: Allen (1974) Technometrics 16, 125."},
      {"leverage", "hat;h",
       "How much a row's own reading pulls the curve there, from 0 to 1: high at the ends and where rows are few. At 1 "
       "the curve passes through the reading whatever it is. Source: Belsley, Kuh and Welsch (1980), 2.1."},
      {"likelihood", "log-likelihood;maximum likelihood",
       "The probability (density) of the data, seen as a function of the parameters. Its logarithm is what AICc and "
       "BIC are computed from, and what fits of events, counts and limits make as large as it can be."},
      {"nonlinearity", "curvature;intrinsic curvature;parameter effects;relative curvature",
       "How far a curved model departs from the tangent plane on which symmetric intervals are based, over the "
       "confidence region. The intrinsic part belongs to the curve, the other to the choice of parameters. Below 0.3 "
       "symmetric intervals are adequate. Source: Bates and Watts (1980) J. R. Statist. Soc. B 42, 1."},
      {"normality", "normal;gaussian scatter;anderson-darling",
       "Whether the residuals could come from a normal distribution. Estimates are little affected if not; prediction "
       "bands and tests of outliers are. Source: Anderson and Darling (1952); Stephens (1974) J. Am. Statist. Assoc. "
       "69, 730."},
      {"outlier", "outliers;suspect",
       "A row that lies farther from the curve than the largest of n residuals should, by a test with Bonferroni's "
       "bound. It is flagged and never removed automatically: check the notebook, correct a recording error, keep a "
       "genuine value. Source: Cook and Weisberg (1982), 2.2.2."},
      {"p-value", "p;significance;significant;hypothesis",
       "How often a result at least as extreme as this would occur if the hypothesis tested were true. It is not the "
       "probability of the hypothesis, and a large one does not prove it."},
      {"prediction band", "prediction interval;prediction",
       "The range in which the next single reading is expected with the stated level: the uncertainty of the curve and "
       "the scatter of a reading together. Source: Draper and Smith (1998), 1.4."},
      {"profile interval", "profile;profile likelihood",
       "The values of a parameter for which chi-squared, made as small as it can be over the other parameters, stays "
       "below its limit. For nonlinear models it may be unsymmetric or open, and covers better than estimate plus and "
       "minus k u. Source: Bates and Watts (1988), 6.1."},
      {"quantitation limit", "loq;limit of quantitation;limit of quantification;quantification limit",
       "The smallest amount that is determined with an acceptable relative standard uncertainty (10 % here). Source: "
       "Currie (1995) Pure Appl. Chem. 67, 1699."},
      {"relative offset", "convergence;converged",
       "How far the search is from the minimum, compared with the size of the confidence region: below 1e-8 the rest "
       "is of no consequence. Source: Bates and Watts (1981) Technometrics 23, 179."},
      {"replicate", "replicates;repeat;repeats",
       "Another reading under the same conditions. Replicates show the scatter by themselves, whatever curve is "
       "fitted."},
      {"residual", "residuals;standardized residual;residual standard deviation;s",
       "Measured less fitted. A standardized residual is divided by its own standard deviation, sqrt(1 - leverage) "
       "included, so that about 95 % lie within ±2. S is the residual standard deviation, in the unit of the response. "
       "--rows lists them all. Source: Belsley, Kuh and Welsch (1980), 2.1."},
      {"runs", "runs test;serial correlation;autocorrelation;drift;durbin-watson",
       "Whether the signs of neighbouring residuals change as often as is expected by chance. Few changes mean that "
       "the curve misses a bend or that readings drift. Source: Wald and Wolfowitz (1940) Ann. Math. Statist. 11, 147; "
       "Durbin and Watson (1950) Biometrika 37, 409."},
      {"R²", "r2;r squared;r-squared;rsq;coefficient of determination;adjusted r²",
       "The share of the variation of the response about its mean that the curve describes. It rises with every term "
       "added, says nothing about whether the curve is right, and values on different scales (y, ln y) must not be "
       "compared: read it together with S and the residuals. Source: Kvålseth (1985) Am. Statist. 39, 279."},
      {"standard uncertainty",
       "uncertainty of measurement;standard error;error bar;error bars;sigma;standard deviation;u",
       "The uncertainty of a value as a standard deviation. In 1.8673(47) it is 0.0047: the number in brackets counts "
       "in the last digits. Source: JCGM 100:2008, 2.3.1 and 7.2.2."},
      {"units", "unit",
       "Units stand in the header, T (K), or in a row beneath the names; parameters get theirs "
       "from the columns wherever the formula determines them. --unit T=K gives or corrects one; nothing is converted "
       "but an uncertainty in another unit of the "
       "same kind."},
      {"variable projection", "projection",
       "A way of fitting curves in which some parameters enter linearly: these are solved for exactly at every step, "
       "so that only the others are searched for. Source: Golub and Pereyra (1973) SIAM J. Numer. Anal. 10, 413."},
      {"weight", "weights;weighting;weighted",
       "How much a row counts in the fit: one over its squared standard uncertainty. Weights come from stated "
       "uncertainties, from --spread or, in a calibration, from the scatter of the levels. Source: JCGM 102:2011; "
       "ISO/TS 28037:2010, 6."},
  };
  return all;
}

const GlossaryEntry* glossary_entry(std::string_view word) {
  const std::string wanted = small(word);
  for (const GlossaryEntry& entry : glossary()) {
    const std::vector<std::string> words = words_of(entry);
    if (std::find(words.begin(), words.end(), wanted) != words.end()) return &entry;
  }
  return nullptr;
}

std::vector<std::string> glossary_words() {
  std::vector<std::string> all;
  for (const GlossaryEntry& entry : glossary()) {
    for (std::string& word : words_of(entry)) all.push_back(std::move(word));
  }
  return all;
}

}  // namespace truecurve::app
