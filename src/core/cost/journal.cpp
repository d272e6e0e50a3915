#include "core/cost/journal.h"
#include "core/cost/markup.h"
#include "core/cost/statistics.h"
#include "core/io/json_cursor.h"
#include <ctime>
#include <set>

namespace mirolux {

JournalAxis journal_axis(const std::vector<std::int64_t>& times, double longest) {
    JournalAxis axis;
    axis.places.assign(times.size(), 0.0);
    axis.pauses.assign(times.size(), false);
    if (times.size() < 2) {
        if (!times.empty()) axis.places[0] = 0.5;
        return axis;
    }
    std::vector<double> steps;
    for (std::size_t i = 1; i < times.size(); ++i)
        steps.push_back(std::max(0.0, static_cast<double>(times[i] - times[i - 1])));
    const double typical = std::max(1.0, median(steps));
    for (std::size_t i = 1; i < times.size(); ++i) {
        axis.pauses[i] = steps[i - 1] > longest * typical;
        axis.places[i] = axis.places[i - 1] + std::clamp(steps[i - 1], 0.25 * typical, longest * typical);
    }
    const double whole = axis.places.back();
    for (double& p : axis.places)
        p /= whole;
    return axis;
}

std::vector<int> label_lanes(const std::vector<double>& x, const std::vector<double>& widths, int lanes) {
    std::vector<double> ends(static_cast<std::size_t>(lanes), -1e9);
    std::vector<int> out;
    for (std::size_t i = 0; i < x.size(); ++i) {
        int lane = -1;
        for (int l = 0; l < lanes && lane < 0; ++l)
            if (ends[static_cast<std::size_t>(l)] <= x[i]) lane = l;
        if (lane >= 0) ends[static_cast<std::size_t>(lane)] = x[i] + widths[i];
        out.push_back(lane);
    }
    return out;
}

std::string step_name(const Entry& e) {
    if (!e.note.empty()) return e.note;
    if (e.changes.empty()) return "measured again";
    return e.changes.size() == 1 ? e.changes.front()
                                 : e.changes.front() + " (+" + std::to_string(e.changes.size() - 1) + ")";
}

StepVerdict step_verdict(const Entry& e, const Entry* before) {
    if (!before) return StepVerdict::first;
    if (before->width != e.width || before->height != e.height || before->device != e.device)
        return StepVerdict::otherSize;
    if (e.frame.high < before->frame.low) return StepVerdict::faster;
    if (e.frame.low > before->frame.high) return StepVerdict::slower;
    return StepVerdict::notShown;
}

std::string step_words(const Entry& e, const Entry* before) {
    switch (step_verdict(e, before)) {
    case StepVerdict::first:
        return "";
    case StepVerdict::otherSize:
        return "another size or device";
    case StepVerdict::notShown:
        return "no difference shown";
    default: {
        const double d = e.frame.median - before->frame.median;
        return line("%+.2f ms (%+.0f %%)", d, before->frame.median > 0 ? 100 * d / before->frame.median : 0);
    }
    }
}

Result<JournalReport> journal_report(const Logbook& logbook, const EntryQuery& query, const std::string& title) {
    auto entries = logbook.entries(query);
    if (!entries) return tl::unexpected(entries.error());
    JournalReport r;
    r.title = title;
    r.entries = std::move(*entries);
    std::reverse(r.entries.begin(), r.entries.end());
    for (const Entry& e : r.entries) {
        auto json = logbook.measurement_json(e.id);
        if (!json) return tl::unexpected(json.error());
        r.measurements.push_back(std::move(*json));
    }
    if (r.entries.size() > 1) {
        const auto first = logbook.state(r.entries.front().id), last = logbook.state(r.entries.back().id);
        if (first && last) r.overall = describe_changes(*first, *last);
    }
    return r;
}

/// Seconds since 1970 of an ISO time in UTC; 0 if it is none.
static std::int64_t seconds_of(const std::string& iso) {
    std::tm t{};
    return strptime(iso.c_str(), "%Y-%m-%dT%H:%M:%SZ", &t) ? static_cast<std::int64_t>(timegm(&t)) : 0;
}

std::string journal_svg(const std::vector<Entry>& entries, double width, double height) {
    if (entries.empty()) return {};
    constexpr int lanes = 5;
    const double left = 62, right = width - 18, top = 22 + lanes * 15, bottom = height - 34;
    std::vector<std::int64_t> times;
    double most = 0;
    for (const Entry& e : entries) {
        times.push_back(seconds_of(e.created));
        most = std::max({most, e.frame.high, e.budgetMs * 1.1});
    }
    most *= 1.06;
    const JournalAxis axis = journal_axis(times);
    const auto x = [&](std::size_t i) { return left + 14 + (right - left - 150) * axis.places[i]; };
    const auto y = [&](double ms) { return bottom - (bottom - top) * ms / most; };
    std::string svg = line("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 %.0f %.0f' width='%.0f' height='%.0f' "
                           "font-family='sans-serif' font-size='11' role='img'>",
                           width, height, width, height);
    double step = std::pow(10.0, std::floor(std::log10(most / 3)));
    while (most / step > 7)
        step *= 2;
    for (double v = 0; v <= most; v += step)
        svg += line("<path d='M%.1f %.1fH%.1f' stroke='#e4e4e4'/><text x='%.1f' y='%.1f' text-anchor='end' "
                    "fill='#555'>%g ms</text>",
                    left, y(v), right, left - 6, y(v) + 4, v);
    // The budget may differ from entry to entry: a line for each stretch of one budget.
    for (std::size_t i = 0; i < entries.size();) {
        std::size_t k = i;
        while (k + 1 < entries.size() && entries[k + 1].budgetMs == entries[i].budgetMs)
            ++k;
        if (entries[i].budgetMs <= 0) {
            i = k + 1;
            continue;
        }
        const double from = i == 0 ? left : x(i) - 6, to = k + 1 == entries.size() ? right : x(k + 1) - 6;
        svg += line("<path d='M%.1f %.1fH%.1f' stroke='#111' stroke-width='1.6'/><text x='%.1f' y='%.1f' "
                    "fill='#111'>budget %.2f ms</text>",
                    from, y(entries[i].budgetMs), to, from + 4, y(entries[i].budgetMs) - 4, entries[i].budgetMs);
        i = k + 1;
    }
    std::string path;
    std::vector<double> at, widths;
    for (std::size_t i = 0; i < entries.size(); ++i) {
        path += line(i == 0 ? "M%.1f %.1f" : "L%.1f %.1f", x(i), y(entries[i].frame.median));
        widths.push_back(12 + 6.0 * static_cast<double>(std::min<std::size_t>(step_name(entries[i]).size(), 44)));
        at.push_back(std::min(x(i), right - widths.back())); // near the end a name stands to the left of its mark
    }
    svg += "<path d='" + path + "' fill='none' stroke='#9aa7b5' stroke-width='1.4'/>";
    const std::vector<int> lane = label_lanes(at, widths, lanes);
    const bool closely =
        times.size() > 1 && times.back() - times.front() <
                                60 * static_cast<std::int64_t>(times.size()); // steps within the minute need seconds
    std::string lastDay;
    double lastDayX = -1e9;
    for (std::size_t i = 0; i < entries.size(); ++i) {
        const Entry& e = entries[i];
        const StepVerdict v = step_verdict(e, i ? &entries[i - 1] : nullptr);
        const bool over = e.budgetMs > 0 && e.frame.median > e.budgetMs;
        if (lane[i] >= 0) {
            const double ly = 18 + 15 * lane[i];
            svg +=
                line("<path d='M%.1f %.1fV%.1f' stroke='#c9ced4' stroke-width='0.8'/>", x(i), ly + 3, y(e.frame.high));
            std::string name = step_name(e);
            if (name.size() > 44) { // never inside a character of several bytes
                std::size_t cut = 42;
                while (cut > 0 && (static_cast<unsigned char>(name[cut]) & 0xC0) == 0x80)
                    --cut;
                name = name.substr(0, cut) + "\u2026";
            }
            svg += line("<text x='%.1f' y='%.1f' fill='#222'>%zu ", at[i] + 2, ly, i + 1) + escaped(name) + "</text>";
        }
        if (axis.pauses[i])
            svg += line("<text x='%.1f' y='%.1f' text-anchor='middle' fill='#777'>//</text>", 0.5 * (x(i - 1) + x(i)),
                        bottom + 4);
        svg += line("<path d='M%.1f %.1fV%.1f' stroke='#444'/>", x(i), y(e.frame.low), y(e.frame.high));
        svg += line("<circle cx='%.1f' cy='%.1f' r='4.5' fill='%s' stroke='%s' stroke-width='1.6'><title>", x(i),
                    y(e.frame.median),
                    over                       ? "#fff"
                    : v == StepVerdict::slower ? "#c4694f"
                                               : "#2b7a5c",
                    over ? "#b3372b" : "#333") +
               escaped(step_name(e)) + line(": %.2f ms</title></circle>", e.frame.median);
        const std::string day = e.created.substr(0, 10), clock = e.created.substr(11, closely ? 8 : 5),
                          when = day != lastDay ? e.created.substr(5, 5) + " " + clock : clock;
        if (x(i) - lastDayX > 66) {
            svg += line("<text x='%.1f' y='%.1f' text-anchor='middle' fill='#555'>", x(i), bottom + 18) +
                   escaped(when) + "</text>";
            lastDayX = x(i);
            lastDay = day;
        }
    }
    return svg + "</svg>";
}

std::string journal_html(const JournalReport& r) {
    std::string out = "<!doctype html><html lang='en'><meta charset='utf-8'><title>" + escaped(r.title) +
                      "</title><style>body{font:14px/1.5 sans-serif;max-width:980px;margin:2em auto;padding:0 "
                      "1em;color:#222}svg{max-width:100%;height:auto}"
                      "table{border-collapse:collapse;font-variant-numeric:tabular-nums;width:100%}td,th{padding:3px "
                      "10px 3px 0;text-align:left;border-bottom:1px solid #ddd;vertical-align:top}"
                      "td.n,th.n{text-align:right;white-space:nowrap}h2{margin-top:1.8em}.quiet{color:#666}.over{color:"
                      "#a32a1f}.step img{width:150px;display:block}ul{margin:0;padding-left:1.1em}"
                      "@page{size:A4;margin:14mm}@media "
                      "print{body{margin:0;max-width:none;font-size:11px}h2{break-after:avoid}tr,figure,.step{break-"
                      "inside:avoid}.step img{width:110px}}</style><h1>" +
                      escaped(r.title) + "</h1>";
    if (r.entries.empty()) return out + "<p>Nothing is logged.</p></html>\n";
    const Entry &first = r.entries.front(), &last = r.entries.back();
    out += "<p>" + line("%zu measured states, ", r.entries.size()) + escaped(first.created) + " to " +
           escaped(last.created) + ". ";
    out += line("From %.2f ms to %.2f ms", first.frame.median, last.frame.median);
    if (last.budgetMs <= 0)
        out += ".</p>";
    else
        out += line("; budget %.2f ms: ", last.budgetMs) +
               (last.frame.median <= last.budgetMs
                    ? line("inside by %.2f ms.</p>", last.budgetMs - last.frame.median)
                    : line("<span class='over'>over by %.2f ms.</span></p>", last.frame.median - last.budgetMs));
    if (r.entries.size() > 1)
        out += "<h2>The story</h2><figure style='margin:0'>" + journal_svg(r.entries, 960, 400) +
               "</figure><p class='quiet'>Medians with 95 % intervals; hollow marks are over the budget; // is a pause "
               "that was cut short.</p>";
    out += "<h2>Steps</h2><table><tr><th></th><th>picture</th><th>what changed</th><th class='n'>frame, ms</th><th>to "
           "the one before</th></tr>";
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Entry& e = r.entries[i];
        out += line("<tr class='step'><td>%zu</td><td>", i + 1);
        if (!e.thumbnail.empty()) out += "<img alt='' src='data:image/png;base64," + base64(e.thumbnail) + "'>";
        out += "</td><td>";
        if (!e.note.empty()) out += "<b>" + escaped(e.note) + "</b>";
        if (!e.changes.empty()) {
            out += "<ul>";
            for (const std::string& c : e.changes)
                out += "<li>" + escaped(c) + "</li>";
            out += "</ul>";
        }
        if (e.recovered) out += "<span class='quiet'>cut off; the rounds until then</span>";
        out += "</td><td class='n'>" +
               line("%s<b>%.2f</b>%s<br><span class='quiet'>%.2f to %.2f<br>%d rounds</span>",
                    e.budgetMs > 0 && e.frame.median > e.budgetMs ? "<span class='over'>" : "<span>", e.frame.median,
                    "</span>", e.frame.low, e.frame.high, e.rounds);
        out += "</td><td>" + escaped(step_words(e, i ? &r.entries[i - 1] : nullptr)) + "<br><span class='quiet'>" +
               escaped(e.created) + "</span></td></tr>";
    }
    out += "</table>";
    if (!r.overall.empty()) {
        out += "<h2>From the first to the last</h2><ul>";
        for (const std::string& c : r.overall)
            out += "<li>" + escaped(c) + "</li>";
        out += "</ul>";
    }
    std::set<std::string> environments;
    for (const Entry& e : r.entries)
        environments.insert(e.device + "; " + e.clock + " clock; " + std::to_string(e.width) + "x" +
                            std::to_string(e.height) + "; target " + e.targetName + "; scene " + e.sceneDigest);
    out += "<h2>Environment</h2><ul>";
    for (const std::string& e : environments)
        out += "<li>" + escaped(e) + "</li>";
    out += "</ul><h2>Raw numbers</h2>";
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Json m = Json::parse(r.measurements[i], nullptr, false);
        if (!m.is_object() || !m.contains("passes") || !m["passes"].is_array() || m["passes"].empty()) continue;
        out += line("<figure style='margin:0 0 1em'><figcaption>%zu ", i + 1) + escaped(step_name(r.entries[i])) +
               "</figcaption><table><tr><th>pass</th><th class='n'>median ms</th><th class='n'>95 % "
               "interval</th><th>samples, ms</th></tr>";
        for (const Json& p : m["passes"]) {
            if (!p.is_object()) continue;
            const auto number = [&](const char* key) {
                return p.contains(key) && p[key].is_number() ? p[key].get<double>() : 0.0;
            };
            const std::string name = p.contains("name") && p["name"].is_string() ? p["name"].get<std::string>() : "";
            out += "<tr><td>" + escaped(name) + "</td><td class='n'>" +
                   line("%.3f</td><td class='n'>%.3f to %.3f</td><td class='quiet'>", number("medianMs"),
                        number("lowMs"), number("highMs"));
            if (p.contains("samplesMs") && p["samplesMs"].is_array())
                for (std::size_t k = 0; k < p["samplesMs"].size() && k < 40; ++k)
                    out += line(k ? " %.2f" : "%.2f",
                                p["samplesMs"][k].is_number() ? p["samplesMs"][k].get<double>() : 0.0);
            out += "</td></tr>";
        }
        out += "</table></figure>";
    }
    return out + "</html>\n";
}

std::string journal_csv(const JournalReport& r) {
    const auto quoted = [](const std::string& text) {
        std::string out = "\"";
        for (const char c : text)
            out += c == '"' ? std::string("\"\"") : std::string(1, c);
        return out + "\"";
    };
    std::string out = "id,created,note,changes,target,budget_ms,device,clock,width,height,rounds,median_ms,low_ms,high_"
                      "ms,unfenced_ms,to_the_one_before,scene_digest,setup_digest\n";
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Entry& e = r.entries[i];
        std::string changes;
        for (const std::string& c : e.changes)
            changes += (changes.empty() ? "" : "; ") + c;
        out += std::to_string(e.id) + "," + e.created + "," + quoted(e.note) + "," + quoted(changes) + "," +
               quoted(e.targetName) + line(",%.6f,", e.budgetMs) + quoted(e.device) + "," + e.clock +
               line(",%d,%d,%d,%.6f,%.6f,%.6f,%.6f,", e.width, e.height, e.rounds, e.frame.median, e.frame.low,
                    e.frame.high, e.whole.median) +
               quoted(step_words(e, i ? &r.entries[i - 1] : nullptr)) + "," + e.sceneDigest + "," + e.setupDigest +
               "\n";
    }
    return out;
}

Json journal_json(const JournalReport& r) {
    Json list = Json::array();
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Entry& e = r.entries[i];
        const Json measurement = Json::parse(r.measurements[i], nullptr, false);
        list.push_back({{"id", e.id},
                        {"created", e.created},
                        {"note", e.note},
                        {"changes", e.changes},
                        {"target", e.targetName},
                        {"budgetMs", e.budgetMs},
                        {"device", e.device},
                        {"clock", e.clock},
                        {"size", {e.width, e.height}},
                        {"rounds", e.rounds},
                        {"medianMs", e.frame.median},
                        {"lowMs", e.frame.low},
                        {"highMs", e.frame.high},
                        {"unfencedMs", e.whole.median},
                        {"recovered", e.recovered},
                        {"sceneDigest", e.sceneDigest},
                        {"setupDigest", e.setupDigest},
                        {"toTheOneBefore", step_words(e, i ? &r.entries[i - 1] : nullptr)},
                        {"measurement", measurement.is_discarded() ? Json() : measurement}});
    }
    return {
        {"schema", "mirolux.journal"}, {"version", 1}, {"title", r.title}, {"overall", r.overall}, {"entries", list}};
}

} // namespace mirolux
