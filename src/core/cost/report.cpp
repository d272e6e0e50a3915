#include "core/cost/report.h"
#include "core/base/text.h"
#include "core/cost/markup.h"
#include "core/cost/measurement_json.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include <fmt/format.h>

namespace mirolux {

Json measurement_document(const Measurement& a, const PairedMeasurement* paired, const DeviceInfo& device,
                          const Setup& setup, const std::string& digest, const std::vector<std::string>& differences) {
    Json j = to_json(a);
    j["schema"] = "mirolux.measurement";
    j["version"] = 1;
    j["created"] = utc_now();
    j["device"] = to_json(device);
    j["setup"] = to_json(setup);
    j["sceneDigest"] = digest;
    if (paired) {
        Json c = to_json(paired->frame);
        c["differences"] = differences;
        c["passes"] = Json::array();
        for (const PassComparison& p : paired->passes) {
            Json one = to_json(p.comparison);
            one["name"] = p.name;
            c["passes"].push_back(one);
        }
        c["b"] = to_json(paired->b);
        j["comparison"] = c;
    }
    return j;
}

std::string measurement_csv(const Measurement& m) {
    std::string out = "pass,family,median_ms,low_ms,high_ms", blank;
    for (const Counter& c : all_counters()) {
        out += ',';
        blank += ',';
        for (const char k : c.name) // camelCase becomes camel_case
            if (k >= 'A' && k <= 'Z')
                out += {'_', static_cast<char>(k - 'A' + 'a')};
            else
                out += k;
    }
    out += '\n';
    for (const PassFigure& p : m.passes) {
        out += fmt::format("{},{},{:.6f},{:.6f},{:.6f}", p.name, p.family, p.ms.median, p.ms.low, p.ms.high);
        for (const Counter& c : all_counters())
            out += ',' + std::to_string(p.work.at(c.name));
        out += '\n';
    }
    out += fmt::format("frame,,{:.6f},{:.6f},{:.6f}", m.frame.median, m.frame.low, m.frame.high) + blank + '\n';
    out += fmt::format("unfenced,,{:.6f},{:.6f},{:.6f}", m.whole.median, m.whole.low, m.whole.high) + blank + '\n';
    return out;
}

std::string comparison_words(const Comparison& c) {
    if (c.verdict == Verdict::notShown)
        return fmt::format("no difference shown (ratio {:.3f}, 95 % interval {:.3f} to {:.3f}; {:.1f} % could have "
                           "been shown; {} rounds)",
                           c.ratio, c.low, c.high, c.smallestShown * 100, c.rounds);
    const bool faster = c.verdict == Verdict::faster;
    const double p = 100 * std::abs(1 - c.ratio), low = 100 * std::abs(1 - (faster ? c.high : c.low)),
                 high = 100 * std::abs(1 - (faster ? c.low : c.high));
    return fmt::format("B is {:.1f} % {} ({:.1f} to {:.1f}; {} rounds)", p, word(c.verdict), low, high, c.rounds);
}

std::string measurement_text(const Measurement& a, const PairedMeasurement* paired, double budgetMs) {
    std::string out =
        fmt::format("{}x{}, {} rounds, {} clock, medians with 95 % intervals\n", a.width, a.height, a.rounds, a.clock);
    auto table = [&](const Measurement& m) {
        for (const PassFigure& p : m.passes)
            out +=
                fmt::format("  {:<12} {:9.3f} ms  ({:.3f} to {:.3f})  {} draws, {} triangles, {} fragments, {} light "
                            "evaluations\n",
                            p.name, p.ms.median, p.ms.low, p.ms.high, p.work.at("draws"), p.work.at("triangles"),
                            p.work.at("fragments"), p.work.at("lightEvaluations"));
        out += fmt::format("  {:<12} {:9.3f} ms  ({:.3f} to {:.3f})  p95 {:.3f}, worst {:.3f}\n", "frame",
                           m.frame.median, m.frame.low, m.frame.high, m.p95, m.worst);
        out += fmt::format("  {:<12} {:9.3f} ms  ({:.3f} to {:.3f})\n", "unfenced", m.whole.median, m.whole.low,
                           m.whole.high);
        if (m.droppedLights)
            out +=
                fmt::format("  path.maxLights dropped {} lights over {} objects\n", m.droppedLights, m.droppedObjects);
    };
    if (paired) out += "A\n";
    table(a);
    if (paired) {
        out += "B\n";
        table(paired->b);
        out += comparison_words(paired->frame) + "\n";
        for (const PassComparison& p : paired->passes)
            out += fmt::format("  {:<12} ", p.name) + comparison_words(p.comparison) + "\n";
    }
    if (budgetMs > 0) {
        const double headroom = budgetMs - a.frame.median;
        out += fmt::format(
            "budget {:.2f} ms: p50 {:.2f}, p95 {:.2f}, p99 {:.2f}, worst {:.2f}; {} by {:.2f} ms ({:.0f} %)\n",
            budgetMs, a.frame.median, a.p95, a.p99, a.worst, headroom >= 0 ? "inside" : "over", std::abs(headroom),
            100 * std::abs(headroom) / budgetMs);
    }
    return out;
}

/// A frame's passes to scale, the budget a line.
static void tape(Markup& m, const std::string& label, const Measurement& of, double scaleMs, double budgetMs) {
    const auto svg = m.open("svg", {{"viewBox", "0 0 900 54"}, {"width", "900"}, {"height", "54"}, {"role", "img"}});
    m.put("text", label, {{"x", 0}, {"y", 30}, {"font-size", "14"}});
    double x = 30;
    const double perMs = 850 / scaleMs;
    for (const PassFigure& p : of.passes) {
        const double w = p.ms.median * perMs;
        {
            const auto bar = m.open("rect", {{"x", x},
                                             {"y", 10},
                                             {"width", w},
                                             {"height", 28},
                                             {"fill", family_ink(p.family)},
                                             {"stroke", "#fff"}});
            m.put("title", fmt::format("{} {:.3f} ms", p.name, p.ms.median));
        }
        if (w > 60)
            m.put("text", fmt::format("{} {:.2f}", p.name, p.ms.median),
                  {{"x", x + 5}, {"y", 29}, {"font-size", "12"}, {"fill", "#fff"}});
        x += w;
    }
    if (budgetMs <= 0) return;
    const double at = 30 + budgetMs * perMs;
    m.mark("line", {{"x1", at}, {"x2", at}, {"y1", 2}, {"y2", 48}, {"stroke", "#111"}, {"stroke-width", "2"}});
    m.put("text", fmt::format("budget {:.2f} ms", budgetMs), {{"x", at + 3}, {"y", 53}, {"font-size", "10"}});
}

static void table(Markup& m, const Measurement& of) {
    const auto element = m.open("table");
    m.row("th", {"pass", "median ms", "95 % interval", "draws", "triangles", "fragments", "light evaluations"});
    const auto number = [](double v) { return fmt::format("{:.3f}", v); };
    const auto interval = [](const Interval& f) { return fmt::format("{:.3f} to {:.3f}", f.low, f.high); };
    for (const PassFigure& p : of.passes) {
        std::vector<std::string> cells = {p.name, number(p.ms.median), interval(p.ms)};
        for (const char* counter : {"draws", "triangles", "fragments", "lightEvaluations"})
            cells.push_back(std::to_string(p.work.at(counter)));
        m.row("td", cells);
    }
    for (const auto& [name, figure] : {std::pair{"frame (sum)", of.frame}, {"unfenced frame", of.whole}}) {
        const auto tr = m.open("tr");
        m.put("th", name).put("td", number(figure.median)).put("td", interval(figure));
    }
}

std::string measurement_html(const std::string& title, const Measurement& a, const PairedMeasurement* paired,
                             const DeviceInfo& device, const Target& target, const Setup& setup,
                             const std::vector<std::string>& differences) {
    static const char* style = "body{font:14px/1.5 sans-serif;max-width:960px;margin:2em auto;color:#222}"
                               "table{border-collapse:collapse;font-variant-numeric:tabular-nums}"
                               "td,th{padding:2px 12px 2px 0;text-align:right;border-bottom:1px solid #ddd}"
                               "td:first-child,th:first-child{text-align:left}h2{margin-top:1.6em}";
    return page(title, style, [&](Markup& m) {
        m.put("p", fmt::format("{}; measured {}; {} rounds, {} clock.", to_text(target), utc_now(), a.rounds, a.clock));
        if (!a.thumbnail.empty())
            m.mark("img", {{"alt", "the picture that was measured"}, {"src", data_address(encode_png(a.thumbnail))}});
        const double budget = budget_ms(target),
                     scale = std::max({budget, a.frame.median, paired ? paired->b.frame.median : 0.0}) * 1.02;
        m.put("h2", "Cost");
        tape(m, paired ? "A" : "", a, scale, budget);
        if (paired) {
            tape(m, "B", paired->b, scale, budget);
            {
                const auto p = m.open("p");
                m.put("b", comparison_words(paired->frame));
            }
            m.list(differences);
        }
        table(m, a);
        if (paired) {
            m.put("h2", "B");
            table(m, paired->b);
        }
        m.put("h2", "Device");
        m.list({device.renderer, device.version, device.clock.verdict, "Mirolux " + device.build});
        const Json changed = to_json(setup);
        if (changed.empty()) return;
        m.put("h2", "Settings that differ from the defaults");
        const auto settings = m.open("table");
        for (const auto& [key, value] : changed.items())
            m.row("td", {key, value.is_string() ? value.get<std::string>() : json_text(value)});
    });
}

} // namespace mirolux
