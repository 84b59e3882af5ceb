// The HTML page of a study.
#include <truecurve/base/version.hpp>
#include <truecurve/report/study_report.hpp>

#include "html_page.hpp"
#include "markup.hpp"

#include <algorithm>

#include <fmt/format.h>
#include <kainjow/mustache.hpp>

namespace truecurve {
namespace {

using kainjow::mustache::data;
using kainjow::mustache::mustache;

constexpr const char* page_form = R"html(<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{title}}</title>
<style>
:root { color-scheme: light dark; --ink: #262c34; --faint: #5d6672; --paper: #ffffff; --rule: #dee2e7; --mark: #bc5214; }
@media (prefers-color-scheme: dark) { :root { --ink: #e6e9ed; --faint: #a3acb8; --paper: #16191d; --rule: #3a4048; --mark: #f0955a; } }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 62rem; padding: 1.2rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.5 system-ui, "DejaVu Sans", sans-serif; overflow-wrap: anywhere; }
h1 { font-size: 1.6rem; line-height: 1.25; margin: 0 0 1rem; }
h2 { font-size: 1.25rem; margin: 2.2rem 0 .6rem; border-bottom: 1px solid var(--rule); padding-bottom: .2rem; }
h3 { font-size: 1rem; margin: 1.4rem 0 .4rem; }
dl.summary dt { font-weight: 600; margin-top: .7rem; }
dl.summary dd { margin: 0; }
a { color: var(--mark); }
figure { margin: 1rem 0; background: #fff; border: 1px solid var(--rule); overflow-x: auto; }
figure svg { display: block; width: 100%; min-width: 46rem; height: auto; }
.wide { overflow-x: auto; }
table { border-collapse: collapse; margin: .4rem 0 1rem; font-variant-numeric: tabular-nums; }
th, td { text-align: left; padding: .2rem .9rem .2rem 0; border-bottom: 1px solid var(--rule); white-space: nowrap; vertical-align: top; }
td.words { white-space: normal; min-width: 18rem; }
table.many { font-size: .9rem; } table.many td.words { min-width: 10rem; }
td.whole { text-align: right; }
td.inset { padding-left: 1.2rem; }
td.number { text-align: right; padding-right: 0; }
td.number + td.fraction { padding-left: 0; }
.aside, p.command, footer { color: var(--faint); font-size: .85rem; }
.aside a { color: inherit; }
ul { margin: .3rem 0; padding-left: 1.2rem; }
code { font-family: ui-monospace, "DejaVu Sans Mono", monospace; }
@media print { @page { size: A4; margin: 15mm; } body { max-width: none; padding: 0; font-size: 10pt; }
  .wide, figure { overflow: visible; } figure svg { min-width: 0; } table { font-size: 8.5pt; } table.many { font-size: 7pt; }
  table.many th, table.many td { padding-right: .4rem; } table.many td.number { padding-right: 0; } table.many td { white-space: normal; }
  th, td.words, footer td { white-space: normal; min-width: 0; }
  h2, h3 { break-after: avoid; } figure, table { break-inside: avoid; } }
</style>
</head>
<body>
<h1>{{title}}</h1>
{{#has_note}}<p>{{note}}</p>
{{/has_note}}<dl class="summary">
{{#sections}}<dt><a href="#{{name}}">{{title}}</a></dt>
{{#has_subject}}<dd class="aside">{{subject}}</dd>
{{/has_subject}}<dd>{{answer}}</dd>
{{#has_cautions}}<dd class="aside"><a href="#{{name}}-careful">Cautions: {{cautions}}</a></dd>
{{/has_cautions}}{{/sections}}</dl>
{{#sections}}
<section id="{{name}}">
<h2>{{title}}</h2>
{{#has_note}}<p>{{note}}</p>
{{/has_note}}{{#has_subject}}<p class="aside">{{subject}}</p>
{{/has_subject}}{{{lead}}}{{#has_cautions}}<h3 id="{{name}}-careful">Cautions</h3>
{{{careful}}}{{/has_cautions}}{{#figures}}<figure>{{{svg}}}</figure>
{{/figures}}
{{#parts}}<h3>{{heading}}</h3>
{{{content}}}{{/parts}}
<p class="command">Command to reproduce: <code>{{command}}</code></p>
</section>
{{/sections}}
<footer>
<h2>Sources and checksums</h2>
<div class="wide"><table><tr><th>file</th><th>SHA-256</th></tr>
{{#sources}}<tr><td>{{file}}</td><td><code>{{sha256}}</code></td></tr>
{{/sources}}</table></div>
<p>True Curve {{version}}. Repeat all, in the folder of the study: <code>{{repeat}}</code></p>
</footer>
</body>
</html>
)html";

void replace_all(std::string& text, const std::string& from, const std::string& to) {
  for (std::size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size()))
    text.replace(at, from.size(), to);
}

// Several pictures on one page must not share their marks; the heading of the file is no part of a page.
std::string inline_svg(std::string svg, const std::string& mark) {
  const auto begin = svg.find("<svg");
  if (begin == std::string::npos) return "";
  svg.erase(0, begin);
  replace_all(svg, "id=\"", "id=\"" + mark);
  replace_all(svg, "url(#", "url(#" + mark);
  replace_all(svg, "href=\"#", "href=\"#" + mark);
  // The size is the page's matter.
  const auto end = svg.find('>');
  std::string head = svg.substr(0, end);
  for (const char* attribute : {" width=\"", " height=\""}) {
    const auto at = head.find(attribute);
    if (at != std::string::npos) head.erase(at, head.find('"', at + std::string(attribute).size()) + 1 - at);
  }
  return head + svg.substr(end);
}

}  // namespace

std::string study_html(const StudyReport& report) {
  data sections{data::type::list};
  for (std::size_t i = 0; i < report.sections.size(); ++i) {
    const ReportSection& section = report.sections[i];
    const Page& shown = section.page;
    data figures{data::type::list};
    for (std::size_t k = 0; k < section.figures.size(); ++k) {
      data figure;
      figure.set("svg", inline_svg(section.figures[k], fmt::format("s{}f{}-", i + 1, k + 1)));
      figures << figure;
    }
    data parts{data::type::list};
    for (const PageSection& part : shown.sections) {
      if (part.blocks.empty()) continue;
      data piece;
      piece.set("heading", part.heading);
      piece.set("content", detail::html_of_blocks(part));
      parts << piece;
    }
    const std::string subject =
        shown.title + (shown.title.empty() || shown.subject.empty() ? "" : ", ") + shown.subject;
    data entry;
    entry.set("name", section.name);
    entry.set("title", section.title.empty() ? section.name : section.title);
    entry.set("has_note", !section.note.empty());
    entry.set("note", section.note);
    entry.set("has_subject", !subject.empty());
    entry.set("subject", subject);
    entry.set("careful", detail::html_of_list(detail::plain(shown.cautions)));
    entry.set("has_cautions", !shown.cautions.empty());
    entry.set("cautions", fmt::format("{}", shown.cautions.size()));
    entry.set("command", section.command);
    entry.set("answer", answer_of(shown));
    entry.set("lead", detail::html_of_blocks(shown.lead));
    entry.set("figures", figures);
    entry.set("parts", parts);
    sections << entry;
  }
  data sources{data::type::list};
  for (const ReportSource& source : report.sources) {
    data entry;
    entry.set("file", source.file);
    entry.set("sha256", source.sha256);
    sources << entry;
  }
  data root;
  root.set("title", report.title);
  root.set("has_note", !report.note.empty());
  root.set("note", report.note);
  root.set("sections", sections);
  root.set("sources", sources);
  root.set("repeat", report.repeat);
  root.set("version", std::string(version));
  mustache template_page(page_form);
  template_page.set_custom_escape([](const std::string& text) { return detail::html_escaped(text); });
  return template_page.render(root);
}

}  // namespace truecurve
