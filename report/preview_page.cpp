// The page of a curve at its starts.
#include <truecurve/report/fit_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

std::string_view origin_text(StartOrigin origin) {
  switch (origin) {
    case StartOrigin::given: return "given";
    case StartOrigin::proposed: return "proposed from the data";
    case StartOrigin::solved: return "solved for: it enters linearly";
  }
  return "";
}

const char* origin_word(StartOrigin origin) {
  return origin == StartOrigin::given ? "given" : origin == StartOrigin::solved ? "solved" : "proposed";
}

std::string distance_sentence(const Preview& preview, const Observations& observations) {
  const Estimate& estimate = preview.estimate;
  if (estimate.is_counted())
    return std::isfinite(preview.chi_squared) ? fmt::format("The deviance is {:.6g}.", preview.chi_squared)
                                              : std::string("There the curve leaves the range that a mean can have.");
  const bool stated = observations.has_uncertainties();
  const bool transformed = estimate.model().is_transformed();
  return fmt::format(
      "{} is {:.6g}{}; the root mean square residual is {}{}.", stated ? "Chi-squared" : "The sum of squared residuals",
      preview.chi_squared, stated ? fmt::format(" for {}", plural(observations.size(), "row")) : "",
      detail::with_unit(fmt::format("{:.4g}", preview.residual_sd), transformed ? "" : observations.response().unit),
      transformed ? " on the scale of " + estimate.model().left_side() : "");
}

}  // namespace

Page preview_page(const Preview& preview, const Observations& observations) {
  const Estimate& estimate = preview.estimate;
  Page page{.title = estimate.model().text(),
            .subject = fmt::format("at its starting values, over {}{}; nothing is fitted",
                                   plural(observations.size(), "row"), detail::of_source(observations.source())),
            .data = {.names = {"name", "start", "origin"}}};
  PageTable table({{"name", Align::left}, {"start", Align::point}, {"", Align::left}});
  for (std::size_t j = 0; j < estimate.parameters().size(); ++j) {
    const std::string& name = estimate.parameter_names()[j];
    table.add({name, fmt::format("{:.6g}", estimate.parameters()[j]), std::string(origin_text(preview.origins[j]))});
    page.data.rows.push_back({name, estimate.parameters()[j], origin_word(preview.origins[j])});
  }
  detail::add_held(table, estimate.model());
  page.lead.show(std::move(table));
  page.lead.say(distance_sentence(preview, observations));
  return page;
}

}  // namespace truecurve
