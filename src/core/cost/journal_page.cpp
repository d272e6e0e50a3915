#include "core/base/text.h"
#include "core/cost/journal.h"
#include "core/cost/markup.h"
#include "core/io/json_cursor.h"
#include <cmath>
#include <ctime>
#include <fmt/format.h>
#include <set>

// The journal as a page.
namespace mirolux {

namespace {

/// Seconds since 1970 of an ISO time in UTC; 0 if it is none.
std::int64_t seconds_of(const std::string& iso) {
    std::tm t{};
    return strptime(iso.c_str(), "%Y-%m-%dT%H:%M:%SZ", &t) ? static_cast<std::int64_t>(timegm(&t)) : 0;
}

/// The first 44 bytes, never cut inside a character of several.
std::string shortened(std::string name) {
    if (name.size() <= 44) return name;
    std::size_t cut = 42;
    while (cut > 0 && (static_cast<unsigned char>(name[cut]) & 0xC0) == 0x80)
        --cut;
    return name.substr(0, cut) + "\u2026";
}

bool is_over(const Entry& e) {
    return e.budgetMs > 0 && e.frame.median > e.budgetMs;
}

/// The story as a plot: where its entries stand, and what is drawn of them.
class Story {
public:
    Story(const std::vector<Entry>& entries, double width, double height)
        : entries_(entries), width_(width), height_(height), right_(width - 18), bottom_(height - 34) {
        for (const Entry& e : entries) {
            times_.push_back(seconds_of(e.created));
            most_ = std::max({most_, e.frame.high, e.budgetMs * 1.1});
        }
        most_ *= 1.06;
        axis_ = journal_axis(times_);
    }
    void draw(Markup& m) const {
        const auto svg = m.open("svg", {{"xmlns", "http://www.w3.org/2000/svg"},
                                        {"viewBox", fmt::format("0 0 {:.0f} {:.0f}", width_, height_)},
                                        {"width", fmt::format("{:.0f}", width_)},
                                        {"height", fmt::format("{:.0f}", height_)},
                                        {"font-family", "sans-serif"},
                                        {"font-size", "11"},
                                        {"role", "img"}});
        draw_scale(m);
        draw_budgets(m);
        draw_line(m);
        draw_names(m);
        for (std::size_t i = 0; i < entries_.size(); ++i)
            draw_entry(m, i);
        draw_times(m);
    }

private:
    static constexpr int lanes = 5;
    static constexpr double left = 62, top = 22 + lanes * 15;

    double x(std::size_t i) const { return left + 14 + (right_ - left - 150) * axis_.places[i]; }
    double y(double ms) const { return bottom_ - (bottom_ - top) * ms / most_; }
    static void upright(Markup& m, double x, double from, double to, const char* stroke, const char* width) {
        m.mark("path",
               {{"d", fmt::format("M{:.1f} {:.1f}V{:.1f}", x, from, to)}, {"stroke", stroke}, {"stroke-width", width}});
    }
    static void level(Markup& m, double y, double from, double to, const char* stroke, const char* width) {
        m.mark("path",
               {{"d", fmt::format("M{:.1f} {:.1f}H{:.1f}", from, y, to)}, {"stroke", stroke}, {"stroke-width", width}});
    }
    static void words(Markup& m, const std::string& text, double x, double y, const char* anchor, const char* fill) {
        m.put("text", text, {{"x", x}, {"y", y}, {"text-anchor", anchor}, {"fill", fill}});
    }

    void draw_scale(Markup& m) const {
        double step = std::pow(10.0, std::floor(std::log10(most_ / 3)));
        while (most_ / step > 7)
            step *= 2;
        for (double v = 0; v <= most_; v += step) {
            level(m, y(v), left, right_, "#e4e4e4", "1");
            words(m, fmt::format("{:g} ms", v), left - 6, y(v) + 4, "end", "#555");
        }
    }
    /// The budget may differ from entry to entry: a line for each stretch of one budget.
    void draw_budgets(Markup& m) const {
        for (std::size_t i = 0; i < entries_.size();) {
            std::size_t k = i;
            while (k + 1 < entries_.size() && entries_[k + 1].budgetMs == entries_[i].budgetMs)
                ++k;
            if (const double budget = entries_[i].budgetMs; budget > 0) {
                const double from = i == 0 ? left : x(i) - 6, to = k + 1 == entries_.size() ? right_ : x(k + 1) - 6;
                level(m, y(budget), from, to, "#111", "1.6");
                words(m, fmt::format("budget {:.2f} ms", budget), from + 4, y(budget) - 4, "start", "#111");
            }
            i = k + 1;
        }
    }
    void draw_line(Markup& m) const {
        std::string path;
        for (std::size_t i = 0; i < entries_.size(); ++i)
            path += fmt::format("{}{:.1f} {:.1f}", i == 0 ? 'M' : 'L', x(i), y(entries_[i].frame.median));
        m.mark("path", {{"d", path}, {"fill", "none"}, {"stroke", "#9aa7b5"}, {"stroke-width", "1.4"}});
    }
    void draw_names(Markup& m) const {
        std::vector<double> at, widths;
        for (std::size_t i = 0; i < entries_.size(); ++i) {
            widths.push_back(12 + 6.0 * static_cast<double>(std::min<std::size_t>(step_name(entries_[i]).size(), 44)));
            at.push_back(std::min(x(i), right_ - widths.back())); // near the end a name stands to the left of its mark
        }
        const std::vector<int> lane = label_lanes(at, widths, lanes);
        for (std::size_t i = 0; i < entries_.size(); ++i) {
            if (lane[i] < 0) continue;
            const double ly = 18 + 15 * lane[i];
            upright(m, x(i), ly + 3, y(entries_[i].frame.high), "#c9ced4", "0.8");
            words(m, fmt::format("{} {}", i + 1, shortened(step_name(entries_[i]))), at[i] + 2, ly, "start", "#222");
        }
    }
    void draw_entry(Markup& m, std::size_t i) const {
        const Entry& e = entries_[i];
        const bool slower = step_verdict(e, i ? &entries_[i - 1] : nullptr) == StepVerdict::slower;
        if (axis_.pauses[i]) words(m, "//", 0.5 * (x(i - 1) + x(i)), bottom_ + 4, "middle", "#777");
        upright(m, x(i), y(e.frame.low), y(e.frame.high), "#444", "1");
        const auto circle = m.open("circle", {{"cx", x(i)},
                                              {"cy", y(e.frame.median)},
                                              {"r", "4.5"},
                                              {"fill", is_over(e) ? "#fff"
                                                       : slower   ? "#c4694f"
                                                                  : "#2b7a5c"},
                                              {"stroke", is_over(e) ? "#b3372b" : "#333"},
                                              {"stroke-width", "1.6"}});
        m.put("title", fmt::format("{}: {:.2f} ms", step_name(e), e.frame.median));
    }
    void draw_times(Markup& m) const {
        const bool closely = times_.size() > 1 &&
                             times_.back() - times_.front() <
                                 60 * static_cast<std::int64_t>(times_.size()); // steps within the minute need seconds
        std::string lastDay;
        double last = -1e9;
        for (std::size_t i = 0; i < entries_.size(); ++i) {
            if (x(i) - last <= 66) continue;
            const std::string &created = entries_[i].created, day = created.substr(0, 10),
                              clock = created.substr(11, closely ? 8 : 5);
            words(m, day != lastDay ? created.substr(5, 5) + " " + clock : clock, x(i), bottom_ + 18, "middle", "#555");
            last = x(i);
            lastDay = day;
        }
    }

    const std::vector<Entry>& entries_;
    double width_, height_, right_, bottom_, most_ = 0;
    std::vector<std::int64_t> times_;
    JournalAxis axis_;
};

const char* style = "body{font:14px/1.5 sans-serif;max-width:980px;margin:2em auto;padding:0 1em;color:#222}"
                    "svg{max-width:100%;height:auto}"
                    "table{border-collapse:collapse;font-variant-numeric:tabular-nums;width:100%}"
                    "td,th{padding:3px 10px 3px 0;text-align:left;border-bottom:1px solid #ddd;vertical-align:top}"
                    "td.n,th.n{text-align:right;white-space:nowrap}h2{margin-top:1.8em}figure{margin:0 0 1em}"
                    ".quiet{color:#666}.over{color:#a32a1f}.step img{width:150px;display:block}"
                    "ul{margin:0;padding-left:1.1em}@page{size:A4;margin:14mm}"
                    "@media print{body{margin:0;max-width:none;font-size:11px}h2{break-after:avoid}"
                    "tr,figure,.step{break-inside:avoid}.step img{width:110px}}";
const Attributes quiet = {{"class", "quiet"}}, numeric = {{"class", "n"}};

void head(Markup& m, const std::vector<Entry>& entries) {
    const Entry &first = entries.front(), &last = entries.back();
    const auto p = m.open("p");
    m.text(fmt::format("{} measured states, {} to {}. From {:.2f} ms to {:.2f} ms", entries.size(), first.created,
                       last.created, first.frame.median, last.frame.median));
    if (last.budgetMs > 0) {
        m.text(fmt::format("; budget {:.2f} ms: ", last.budgetMs));
        if (is_over(last))
            m.put("span", fmt::format("over by {:.2f} ms", last.frame.median - last.budgetMs), {{"class", "over"}});
        else
            m.text(fmt::format("inside by {:.2f} ms", last.budgetMs - last.frame.median));
    }
    m.text(".");
}

void step(Markup& m, std::size_t number, const Entry& e, const Entry* before) {
    const auto tr = m.open("tr", {{"class", "step"}});
    m.put("td", std::to_string(number));
    {
        const auto td = m.open("td");
        if (!e.thumbnail.empty()) m.mark("img", {{"alt", ""}, {"src", data_address(e.thumbnail)}});
    }
    {
        const auto td = m.open("td");
        if (!e.note.empty()) m.put("b", e.note);
        m.list(e.changes);
        if (e.recovered) m.put("span", "cut off; the rounds until then", quiet);
    }
    {
        const auto td = m.open("td", numeric);
        m.put("b", fmt::format("{:.2f}", e.frame.median), is_over(e) ? Attributes{{"class", "over"}} : Attributes{});
        m.mark("br").put("span", fmt::format("{:.2f} to {:.2f}", e.frame.low, e.frame.high), quiet);
        m.mark("br").put("span", fmt::format("{} rounds", e.rounds), quiet);
    }
    const auto td = m.open("td");
    m.text(step_words(e, before)).mark("br").put("span", e.created, quiet);
}

/// Passes of one entry with their samples; nothing if its measurement tells none.
void raw_numbers(Markup& m, std::size_t number, const Entry& e, const std::string& measurement) {
    const Json read = Json::parse(measurement, nullptr, false);
    if (!read.is_object() || !read.contains("passes") || !read["passes"].is_array() || read["passes"].empty()) return;
    const auto figure = m.open("figure");
    m.put("figcaption", fmt::format("{} {}", number, step_name(e)));
    const auto table = m.open("table");
    {
        const auto tr = m.open("tr");
        m.put("th", "pass")
            .put("th", "median ms", numeric)
            .put("th", "95 % interval", numeric)
            .put("th", "samples, ms");
    }
    for (const Json& p : read["passes"]) {
        if (!p.is_object()) continue;
        const auto value = [&](const char* key) {
            return p.contains(key) && p[key].is_number() ? p[key].get<double>() : 0.0;
        };
        std::vector<std::string> samples;
        if (p.contains("samplesMs") && p["samplesMs"].is_array())
            for (std::size_t k = 0; k < p["samplesMs"].size() && k < 40; ++k)
                if (p["samplesMs"][k].is_number())
                    samples.push_back(fmt::format("{:.2f}", p["samplesMs"][k].get<double>()));
        const auto tr = m.open("tr");
        m.put("td", p.contains("name") && p["name"].is_string() ? p["name"].get<std::string>() : "");
        m.put("td", fmt::format("{:.3f}", value("medianMs")), numeric);
        m.put("td", fmt::format("{:.3f} to {:.3f}", value("lowMs"), value("highMs")), numeric);
        m.put("td", joined(samples, " "), quiet);
    }
}

} // namespace

std::string journal_svg(const std::vector<Entry>& entries, double width, double height) {
    Markup m;
    if (!entries.empty()) Story(entries, width, height).draw(m);
    return m.written();
}

std::string journal_html(const JournalReport& r) {
    return page(r.title, style, [&](Markup& m) {
        if (r.entries.empty()) {
            m.put("p", "Nothing is logged.");
            return;
        }
        head(m, r.entries);
        if (r.entries.size() > 1) {
            m.put("h2", "The story");
            {
                const auto figure = m.open("figure");
                Story(r.entries, 960, 400).draw(m);
            }
            m.put("p",
                  "Medians with 95 % intervals; hollow marks are over the budget; // is a pause that was cut short.",
                  quiet);
        }
        m.put("h2", "Steps");
        {
            const auto table = m.open("table");
            {
                const auto tr = m.open("tr");
                m.put("th", "").put("th", "picture").put("th", "what changed").put("th", "frame, ms", numeric);
                m.put("th", "to the one before");
            }
            for (std::size_t i = 0; i < r.entries.size(); ++i)
                step(m, i + 1, r.entries[i], i ? &r.entries[i - 1] : nullptr);
        }
        if (!r.overall.empty()) m.put("h2", "From the first to the last").list(r.overall);
        std::set<std::string> environments;
        for (const Entry& e : r.entries)
            environments.insert(fmt::format("{}; {} clock; {}x{}; target {}; scene {}", e.device, e.clock, e.width,
                                            e.height, e.targetName, e.sceneDigest));
        m.put("h2", "Environment").list({environments.begin(), environments.end()});
        m.put("h2", "Raw numbers");
        for (std::size_t i = 0; i < r.entries.size(); ++i)
            raw_numbers(m, i + 1, r.entries[i], r.measurements[i]);
    });
}

} // namespace mirolux
