#include "core/cost/foresight_check.h"
#include "core/base/text.h"
#include "core/path/path_kind.h"
#include <fmt/format.h>
#include <random>

namespace mirolux {

namespace {

struct Change {
    std::string words;
    Setup now, next;
    View view, nextView;
};

/// A setup to start from, and one thing that is changed in it.
Change drawn_change(const Setup& base, const View& view, const std::vector<Camera>& cameras, int index,
                    std::mt19937& random) {
    static const auto paths = path_words([](const PathKind&) { return true; });
    static const char* const keys[] = {
        "culling.tile",      "culling.depthBounds", "path.maxLights",     "shading.model",
        "gbuffer.packing",   "path.targetFormat",   "shading.normalMaps", "cluster.slices",
        "transparency.kind", "path.depthPrepass",   "air.kind",           "culling.test"};
    Change c{"", base, base, view, view};
    const std::string path = paths[static_cast<std::size_t>(index) % paths.size()];
    (void)c.now.set_text("path.kind", path);
    if (!cameras.empty()) c.view.camera = cameras[random() % cameras.size()];
    c.words = path + (cameras.empty() ? "" : ", " + c.view.camera.name) + ": ";
    c.next = c.now;
    c.nextView = c.view;
    const auto size = random() % 8;
    if (size == 0) { // the picture's size
        const double scale = random() % 2 ? 1.5 : 0.75;
        c.nextView.width = static_cast<int>(view.width * scale);
        c.nextView.height = static_cast<int>(view.height * scale);
        c.words += "picture " + std::to_string(c.nextView.width) + "x" + std::to_string(c.nextView.height);
        return c;
    }
    if (size < 4) { // another path
        std::string other = path;
        while (other == path)
            other = paths[random() % paths.size()];
        (void)c.next.set_text("path.kind", other);
        c.words += "to " + other;
        return c;
    }
    for (;;) {
        const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(keys[random() % std::size(keys)]))];
        if (!applies(s, c.now)) continue;
        std::string value;
        if (s.kind == SettingKind::choice)
            value = s.choices[random() % s.choices.size()];
        else if (s.kind == SettingKind::toggle)
            value = c.now.flag(s.key) ? "off" : "on";
        else
            value = std::to_string(
                std::clamp(static_cast<int>(4 << (random() % 5)), static_cast<int>(s.low), static_cast<int>(s.high)));
        if (!c.next.set_text(s.key, value) || c.next == c.now) continue;
        c.words += s.key + " " + value;
        return c;
    }
}

Result<CountedFrame> count(RenderSession& session, const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.count = true;
    auto record = session.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    return counted_frame(plan_frame(scene, setup, view), *record);
}

Result<std::vector<double>> frame_times(RenderSession& session, const Scene& scene, const Setup& setup,
                                        const View& view, int samples) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = samples;
    auto record = session.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    std::vector<double> sums(static_cast<std::size_t>(samples), 0.0);
    for (const PassRecord& p : record->passes)
        for (std::size_t i = 0; i < sums.size() && i < p.ms.size(); ++i)
            sums[i] += p.ms[i];
    return sums;
}

/// Both in turn, two frames a visit, the first of which meets cold caches.
Result<void> measure_change(RenderSession& session, const Scene& scene, const Change& c, CheckedChange& out) {
    std::vector<double> a, b;
    for (int round = 0; round < 9; ++round)
        for (const bool next : {round % 2 == 1, round % 2 == 0}) {
            auto times = next ? frame_times(session, scene, c.next, c.nextView, 2)
                              : frame_times(session, scene, c.now, c.view, 2);
            if (!times) return tl::unexpected(times.error());
            (next ? b : a).push_back(times->back());
        }
    out.comparison = compare_paired(a, b, 1);
    out.measuredMs = median(b);
    return {};
}

} // namespace

Result<ForesightCheck> check_foresight(RenderSession& session, const DeviceProfile& profile, const Scene& scene,
                                       const Setup& base, const View& view, const std::vector<Camera>& cameras,
                                       int count_, std::uint32_t seed, const std::function<bool(int done)>& progress) {
    ForesightCheck out;
    std::mt19937 random(seed);
    std::vector<double> errors;
    int within = 0;
    for (int i = 0; i < count_ && (!progress || progress(i)); ++i) {
        const Change c = drawn_change(base, view, cameras, i, random);
        auto now = count(session, scene, c.now, c.view), next = count(session, scene, c.next, c.nextView);
        if (!now) return tl::unexpected(now.error());
        if (!next) return tl::unexpected(next.error());
        RenderOptions timing;
        timing.picture = false;
        timing.fencedSamples = 6;
        auto timed = session.render(scene, c.now, c.view, timing);
        if (!timed) return tl::unexpected(timed.error());
        PassTimes measured;
        for (const PassRecord& p : timed->passes)
            measured[p.name] = median({p.ms.begin() + 1, p.ms.end()}); // without the cold one
        const auto foreseen = foresee(profile, *now, measured, *next);
        if (!foreseen) return tl::unexpected(foreseen.error());
        CheckedChange checked{c.words, foreseen->nowMs, foreseen->ms, foreseen->lowMs, foreseen->highMs, 0, {}};
        if (auto ok = measure_change(session, scene, c, checked); !ok) return tl::unexpected(ok.error());
        out.shown += checked.shown();
        out.right += checked.shown() && checked.right();
        within += checked.measuredMs >= checked.lowMs && checked.measuredMs <= checked.highMs;
        errors.push_back(checked.error());
        out.changes.push_back(std::move(checked));
    }
    out.medianError = errors.empty() ? 0 : median(errors);
    out.within = out.changes.empty() ? 0 : double(within) / static_cast<double>(out.changes.size());
    return out;
}

Json to_json(const ForesightCheck& c) {
    Json rows = Json::array();
    for (const CheckedChange& x : c.changes)
        rows.push_back({{"change", x.change},
                        {"nowMs", x.nowMs},
                        {"foreseenMs", x.foreseenMs},
                        {"lowMs", x.lowMs},
                        {"highMs", x.highMs},
                        {"measuredMs", x.measuredMs},
                        {"ratio", x.comparison.ratio},
                        {"verdict", word(x.comparison.verdict)},
                        {"right", !x.shown() || x.right()}});
    return {{"changes", rows},
            {"shown", c.shown},
            {"right", c.right},
            {"medianError", c.medianError},
            {"within", c.within}};
}

std::string foresight_markdown(const ForesightCheck& c, const DeviceProfile& profile) {
    std::string out = "# Foresight against what was measured then\n\n";
    out += fmt::format(
        "Profile \"{}\" of {}. {} changes; of {} with a measured difference (9 paired rounds), {} were "
        "foreseen on its side. Median error of the frame {:.1f} %; {:.0f} % of the measured frames lie in the "
        "interval.\n\n| change | now ms | foreseen ms | interval | measured ms | error | measured "
        "difference |\n|---|---|---|---|---|---|---|\n",
        profile.name, profile.device, c.changes.size(), c.shown, c.right, 100 * c.medianError, 100 * c.within);
    for (const CheckedChange& x : c.changes) {
        out += "| " + x.change +
               fmt::format(" | {:.1f} | {:.1f} | {:.1f} to {:.1f} | {:.1f} | {:.0f} % | {}{} |\n", x.nowMs,
                           x.foreseenMs, x.lowMs, x.highMs, x.measuredMs, 100 * x.error(), word(x.comparison.verdict),
                           x.shown() && !x.right() ? ", foreseen on the other side" : "");
    }
    return out;
}

} // namespace mirolux
