#include "core/cost/report.h"
#include "core/base/text.h"
#include "core/cost/markup.h"
#include "core/cost/measurement_json.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"

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
        out += line("%s,%s,%.6f,%.6f,%.6f", p.name.c_str(), p.family.c_str(), p.ms.median, p.ms.low, p.ms.high);
        for (const Counter& c : all_counters())
            out += ',' + std::to_string(p.work.at(c.name));
        out += '\n';
    }
    out += line("frame,,%.6f,%.6f,%.6f", m.frame.median, m.frame.low, m.frame.high) + blank + '\n';
    out += line("unfenced,,%.6f,%.6f,%.6f", m.whole.median, m.whole.low, m.whole.high) + blank + '\n';
    return out;
}

std::string comparison_words(const Comparison& c) {
    if (c.verdict == Verdict::notShown)
        return line(
            "no difference shown (ratio %.3f, 95 %% interval %.3f to %.3f; %.1f %% could have been shown; %d rounds)",
            c.ratio, c.low, c.high, c.smallestShown * 100, c.rounds);
    const bool faster = c.verdict == Verdict::faster;
    const double p = 100 * std::abs(1 - c.ratio), low = 100 * std::abs(1 - (faster ? c.high : c.low)),
                 high = 100 * std::abs(1 - (faster ? c.low : c.high));
    return line("B is %.1f %% %s (%.1f to %.1f; %d rounds)", p, word(c.verdict), low, high, c.rounds);
}

std::string measurement_text(const Measurement& a, const PairedMeasurement* paired, double budgetMs) {
    std::string out = line("%dx%d, %d rounds, %s clock, medians with 95 %% intervals\n", a.width, a.height, a.rounds,
                           a.clock.c_str());
    auto table = [&](const Measurement& m) {
        for (const PassFigure& p : m.passes)
            out += line("  %-12s %9.3f ms  (%.3f to %.3f)  %llu draws, %llu triangles, %llu fragments, %llu light "
                        "evaluations\n",
                        p.name.c_str(), p.ms.median, p.ms.low, p.ms.high, (unsigned long long)p.work.at("draws"),
                        (unsigned long long)p.work.at("triangles"), (unsigned long long)p.work.at("fragments"),
                        (unsigned long long)p.work.at("lightEvaluations"));
        out += line("  %-12s %9.3f ms  (%.3f to %.3f)  p95 %.3f, worst %.3f\n", "frame", m.frame.median, m.frame.low,
                    m.frame.high, m.p95, m.worst);
        out += line("  %-12s %9.3f ms  (%.3f to %.3f)\n", "unfenced", m.whole.median, m.whole.low, m.whole.high);
        if (m.droppedLights)
            out += line("  path.maxLights dropped %llu lights over %d objects\n", (unsigned long long)m.droppedLights,
                        m.droppedObjects);
    };
    if (paired) out += "A\n";
    table(a);
    if (paired) {
        out += "B\n";
        table(paired->b);
        out += comparison_words(paired->frame) + "\n";
        for (const PassComparison& p : paired->passes)
            out += line("  %-12s ", p.name.c_str()) + comparison_words(p.comparison) + "\n";
    }
    if (budgetMs > 0) {
        const double headroom = budgetMs - a.frame.median;
        out += line("budget %.2f ms: p50 %.2f, p95 %.2f, p99 %.2f, worst %.2f; %s by %.2f ms (%.0f %%)\n", budgetMs,
                    a.frame.median, a.p95, a.p99, a.worst, headroom >= 0 ? "inside" : "over", std::abs(headroom),
                    100 * std::abs(headroom) / budgetMs);
    }
    return out;
}

static std::string tape_svg(const std::string& label, const Measurement& m, double scaleMs, double budgetMs) {
    std::string svg =
        "<svg viewBox='0 0 900 54' width='900' height='54' role='img'><text x='0' y='30' font-size='14'>" + label +
        "</text>";
    double x = 30;
    const double perMs = 850 / scaleMs;
    for (const PassFigure& p : m.passes) {
        const double w = p.ms.median * perMs;
        svg += line(
            "<rect x='%.2f' y='10' width='%.2f' height='28' fill='%s' stroke='#fff'><title>%s %.3f ms</title></rect>",
            x, w, family_ink(p.family).c_str(), p.name.c_str(), p.ms.median);
        if (w > 60)
            svg += line("<text x='%.2f' y='29' font-size='12' fill='#fff'>%s %.2f</text>", x + 5, p.name.c_str(),
                        p.ms.median);
        x += w;
    }
    if (budgetMs > 0)
        svg += line("<line x1='%.2f' x2='%.2f' y1='2' y2='48' stroke='#111' stroke-width='2'/><text x='%.2f' y='53' "
                    "font-size='10'>budget %.2f ms</text>",
                    30 + budgetMs * perMs, 30 + budgetMs * perMs, 33 + budgetMs * perMs, budgetMs);
    return svg + "</svg>";
}

std::string measurement_html(const std::string& title, const Measurement& a, const PairedMeasurement* paired,
                             const DeviceInfo& device, const Target& target, const Setup& setup,
                             const std::vector<std::string>& differences) {
    std::string out = "<!doctype html><html lang='en'><meta charset='utf-8'><title>" + escaped(title) +
                      "</title><style>body{font:14px/1.5 sans-serif;max-width:960px;margin:2em "
                      "auto;color:#222}table{border-collapse:collapse;font-variant-numeric:tabular-nums}"
                      "td,th{padding:2px 12px 2px 0;text-align:right;border-bottom:1px solid "
                      "#ddd}td:first-child,th:first-child{text-align:left}h2{margin-top:1.6em}</style><h1>" +
                      escaped(title) + "</h1>";
    out += "<p>" + escaped(to_text(target)) + "; measured " + utc_now() + "; " +
           line("%d rounds, %s clock.", a.rounds, a.clock.c_str()) + "</p>";
    if (!a.thumbnail.empty())
        out += "<img alt='the picture that was measured' src='data:image/png;base64," +
               base64(encode_png(a.thumbnail)) + "'>";
    const double scale = std::max({budget_ms(target), a.frame.median, paired ? paired->b.frame.median : 0.0}) * 1.02;
    out += "<h2>Cost</h2>" + tape_svg(paired ? "A" : "", a, scale, budget_ms(target));
    if (paired) {
        out += tape_svg("B", paired->b, scale, budget_ms(target)) + "<p><b>" +
               escaped(comparison_words(paired->frame)) + "</b></p><ul>";
        for (const std::string& d : differences)
            out += "<li>" + escaped(d) + "</li>";
        out += "</ul>";
    }
    auto table = [&](const Measurement& m) {
        out += "<table><tr><th>pass</th><th>median ms</th><th>95 % "
               "interval</th><th>draws</th><th>triangles</th><th>fragments</th><th>light evaluations</th></tr>";
        for (const PassFigure& p : m.passes)
            out += line("<tr><td>%s</td><td>%.3f</td><td>%.3f to "
                        "%.3f</td><td>%llu</td><td>%llu</td><td>%llu</td><td>%llu</td></tr>",
                        p.name.c_str(), p.ms.median, p.ms.low, p.ms.high, (unsigned long long)p.work.at("draws"),
                        (unsigned long long)p.work.at("triangles"), (unsigned long long)p.work.at("fragments"),
                        (unsigned long long)p.work.at("lightEvaluations"));
        out += line("<tr><th>frame (sum)</th><td>%.3f</td><td>%.3f to %.3f</td></tr><tr><th>unfenced "
                    "frame</th><td>%.3f</td><td>%.3f to %.3f</td></tr></table>",
                    m.frame.median, m.frame.low, m.frame.high, m.whole.median, m.whole.low, m.whole.high);
    };
    table(a);
    if (paired) {
        out += "<h2>B</h2>";
        table(paired->b);
    }
    out += "<h2>Device</h2><p>" + escaped(device.renderer) + "<br>" + escaped(device.version) + "<br>" +
           escaped(device.clock.verdict) + "<br>Mirolux " + escaped(device.build) + "</p>";
    const Json changed = to_json(setup);
    if (!changed.empty()) {
        out += "<h2>Settings that differ from the defaults</h2><table>";
        for (const auto& [key, value] : changed.items())
            out += "<tr><td>" + key + "</td><td>" +
                   escaped(value.is_string() ? value.get<std::string>() : json_text(value)) + "</td></tr>";
        out += "</table>";
    }
    return out + "</html>\n";
}

} // namespace mirolux
