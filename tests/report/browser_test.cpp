// The foundry's report in a real browser: nothing wider than a phone, a screen or A4, and nothing to complain about.
// Where there is no Chromium the test is skipped, unless TRUECURVE_BROWSER is set (as ./check.sh --browser does).
#include "../support.hpp"

#include <array>
#include <cstdio>
#include <cstdlib>
#include <fstream>

namespace truecurve {
namespace {

using test::file_text;
using test::TemporaryFolder;

constexpr const char* chromium =
    "chromium --headless --no-sandbox --disable-gpu --disable-dev-shm-usage --allow-file-access-from-files "
    "--virtual-time-budget=20000 --enable-logging=stderr";

std::string output_of(const std::string& command) {
  std::string output;
  std::array<char, 4096> part{};
  std::FILE* pipe = popen(command.c_str(), "r");
  if (pipe == nullptr) return output;
  while (const std::size_t read = std::fread(part.data(), 1, part.size(), pipe)) output.append(part.data(), read);
  pclose(pipe);
  return output;
}

// Opens pages in frames of given widths, unfolds what is folded, and writes what sticks out of each: elements that end
// beyond the frame and stand in nothing that scrolls.
constexpr const char* harness = R"html(<!doctype html><meta charset="utf-8"><body><pre id="found"></pre><script>
async function measure(source, width) {
  const frame = document.createElement('iframe');
  frame.style = `width:${width}px;height:900px;border:0;overflow:hidden`;
  frame.src = source;
  const loaded = new Promise(done => frame.onload = done);
  document.body.append(frame);
  await loaded;
  const page = frame.contentDocument;
  const style = e => frame.contentWindow.getComputedStyle(e);
  page.querySelectorAll('details').forEach(d => d.open = true);
  const limit = page.documentElement.clientWidth;
  const outside = [];
  for (const element of page.querySelectorAll('body *')) {
    let scrolls = false;
    for (let e = element.parentElement; e; e = e.parentElement) scrolls = scrolls || style(e).overflowX === 'auto';
    const box = element.getBoundingClientRect();
    if (!scrolls && box.width > 0 && (box.right > limit + 1 || box.left < -1))
      outside.push(element.tagName + ' ' + element.textContent.slice(0, 40));
  }
  const cells = page.querySelectorAll('td.number').length;
  const ends = [...page.querySelectorAll('table')].filter(table => {
    const rights = new Set([...table.querySelectorAll('tr')].map(row => row.querySelector('td.number'))
      .filter(cell => cell && cell.cellIndex === table.querySelector('td.number').cellIndex)
      .map(cell => Math.round(cell.getBoundingClientRect().right)));
    return rights.size > 1;
  }).length;
  document.getElementById('found').textContent += `${width}: wide ${page.documentElement.scrollWidth - limit}, ` +
    `outside ${outside.length} ${outside.slice(0, 3).join('; ')}, numbers ${cells > 0}, points apart ${ends}, ` +
    `drawn text ${page.querySelectorAll('svg text').length > 0}\n`;
}
(async () => {
  await measure('report.html', 360);
  await measure('report.html', 1280);
  await measure('print.html', 680);  // A4 less its margins, at 96 dots an inch
  document.getElementById('found').textContent += 'done';
})();
</script>)html";

TEST(Report, FitsPhoneScreenAndPaperInABrowser) {
  if (std::system("command -v chromium > /dev/null 2>&1") != 0) {
    ASSERT_EQ(std::getenv("TRUECURVE_BROWSER"), nullptr) << "chromium is not installed";
    GTEST_SKIP() << "there is no Chromium; ./check.sh --browser installs it";
  }
  const TemporaryFolder folder;
  ASSERT_EQ(
      test::run_command({"run", (test::source_folder() / "demo/foundry.toml").string(), "--into", folder / "out"}).code,
      0);
  const auto out = folder / "out";
  // The rules of paper, applied on the screen where they can be measured.
  std::string paper = file_text(out / "report.html");
  const auto rule = paper.find("@media print");
  ASSERT_NE(rule, std::string::npos);
  paper.replace(rule, std::string("@media print").size(), "@media all");
  const auto page_rule = paper.find("@page { size: A4; margin: 15mm; }");
  ASSERT_NE(page_rule, std::string::npos);
  std::ofstream(out / "print.html") << paper;
  std::ofstream(out / "harness.html") << harness;
  const std::string shown = output_of(
      fmt::format("{} --dump-dom file://{} 2> {}", chromium, (out / "harness.html").string(), (out / "log").string()));
  for (const int width : {360, 1280, 680}) {
    EXPECT_TRUE(has(shown, fmt::format("{}: wide 0, outside 0 , numbers true, points apart 0, drawn text true", width)))
        << shown.substr(0, 2000);
  }
  EXPECT_TRUE(has(shown, "done</pre>"));
  EXPECT_FALSE(has(file_text(out / "log"), "CONSOLE"));

  // On paper: pages of A4 (595 by 842 points).
  (void)output_of(fmt::format("{} --print-to-pdf={} file://{} 2>&1", chromium, (out / "report.pdf").string(),
                              (out / "report.html").string()));
  const std::string pdf = file_text(out / "report.pdf");
  const std::string mark = "/MediaBox [0 0 ";
  const auto box = pdf.find(mark);
  ASSERT_NE(box, std::string::npos);
  std::istringstream size(pdf.substr(box + mark.size(), 40));
  double width = 0, height = 0;
  size >> width >> height;
  EXPECT_NEAR(width, 595, 1);
  EXPECT_NEAR(height, 842, 1);
}

}  // namespace
}  // namespace truecurve
