#include "core/cost/profile_check.h"
#include "core/base/text.h"
#include "core/cost/markup.h"
#include "core/path/path_kind.h"
#include <fmt/format.h>
#include <random>

namespace mirolux {

namespace {

struct Case {
    std::string name;
    Setup setup;
    View view;
};

Case varied(const Setup& base, const View& view, const std::vector<Camera>& cameras, int index, std::mt19937& random) {
    static const char* const paths[] = {"forward",       "tiled-deferred", "clustered-forward",  "deferred",
                                        "tiled-forward", "additive",       "clustered-deferred", "volumes"};
    Case c{"", base, view};
    const auto pick = [&](const char* key, std::initializer_list<const char*> words) {
        const std::string word = words.begin()[random() % words.size()];
        if (c.setup.set_text(key, word).has_value()) c.name += ", " + std::string(key) + " " + word;
    };
    const char* path = paths[static_cast<std::size_t>(index) % std::size(paths)]; // each as often as the others
    (void)c.setup.set_text("path.kind", path);
    c.name = path;
    pick("shading.model", {"lambert", "phong", "blinn-phong", "ggx"});
    const PathKind& shape = path_kind(c.setup);
    if (shape.lists) {
        pick("culling.tile", {"8", "16", "32"});
        pick("culling.depthBounds", {"off", "min-max", "mask"});
    } else if (std::string(path) == "forward")
        pick("path.maxLights", {"2", "8", "24", "64"});
    if (shape.deferred) pick("gbuffer.packing", {"packed", "packed", "full"});
    if (shape.clustered) pick("cluster.slices", {"8", "16", "24"});
    if (random() % 5 == 0) pick("path.targetFormat", {"rgba32f"});
    if (random() % 5 == 0) pick("shading.normalMaps", {"off"});
    const int heights[] = {180, 270, 360, 450};
    c.view.height = heights[random() % 4];
    c.view.width = c.view.height * 16 / 9;
    c.view.stereo = Stereo::off;
    c.name += ", " + std::to_string(c.view.width) + "x" + std::to_string(c.view.height);
    if (!cameras.empty()) {
        c.view.camera = cameras[random() % cameras.size()];
        c.name += ", " + c.view.camera.name;
    }
    return c;
}

} // namespace

Result<ProfileCheck> check_profile(RenderSession& session, const DeviceProfile& profile, const Scene& scene,
                                   const Setup& base, const View& view, const std::vector<Camera>& cameras, int count,
                                   std::uint32_t seed, int sweeps, const std::function<bool(int done)>& progress) {
    ProfileCheck out;
    std::mt19937 random(seed);
    std::vector<Case> cases;
    std::vector<Prediction> predictions;
    std::vector<std::vector<double>> sums(static_cast<std::size_t>(count));
    bool stopped = false;
    for (int sweep = 0; sweep < sweeps && !stopped; ++sweep)
        for (int i = 0; i < count; ++i) {
            if (progress && !progress(sweep * count + i)) {
                stopped = true;
                break;
            }
            const auto k = static_cast<std::size_t>(i);
            if (sweep == 0) {
                cases.push_back(varied(base, view, cameras, i, random));
                RenderOptions counting;
                counting.picture = false;
                counting.fencedSamples = 0;
                counting.count = true;
                auto counted = session.render(scene, cases[k].setup, cases[k].view, counting);
                if (!counted) return tl::unexpected(counted.error());
                auto prediction = predict(profile, plan_frame(scene, cases[k].setup, cases[k].view), *counted);
                if (!prediction) return tl::unexpected(prediction.error());
                predictions.push_back(std::move(*prediction));
            }
            RenderOptions timing;
            timing.picture = false;
            timing.fencedSamples = 3;
            auto timed = session.render(scene, cases[k].setup, cases[k].view, timing);
            if (!timed) return tl::unexpected(timed.error());
            for (std::size_t s = 1; s < 3; ++s) { // the first meets cold caches
                double sum = 0;
                for (const PassRecord& p : timed->passes)
                    sum += s < p.ms.size() ? p.ms[s] : 0.0;
                sums[k].push_back(sum);
            }
        }
    std::vector<double> errors;
    int within = 0;
    for (std::size_t k = 0; k < predictions.size(); ++k) {
        if (sums[k].empty()) continue;
        out.setups.push_back({cases[k].name, predictions[k].frameMs, median(sums[k])});
        const CheckedSetup& s = out.setups.back();
        errors.push_back(std::abs(s.error()));
        within += s.measuredMs >= predictions[k].lowMs && s.measuredMs <= predictions[k].highMs;
    }
    out.medianError = median(errors);
    out.p90Error = quantile(errors, 0.9);
    out.withinBar = errors.empty() ? 0 : double(within) / static_cast<double>(errors.size());
    return out;
}

Json to_json(const ProfileCheck& c) {
    Json rows = Json::array();
    for (const CheckedSetup& s : c.setups)
        rows.push_back(
            {{"setup", s.name}, {"predictedMs", s.predictedMs}, {"measuredMs", s.measuredMs}, {"error", s.error()}});
    return {{"setups", rows}, {"medianError", c.medianError}, {"p90Error", c.p90Error}, {"withinBar", c.withinBar}};
}

std::string check_svg(const ProfileCheck& check, const DeviceProfile& profile) {
    double low = 1e30, high = 0;
    for (const CheckedSetup& s : check.setups)
        for (const double ms : {s.predictedMs, s.measuredMs})
            if (ms > 0) low = std::min(low, ms), high = std::max(high, ms);
    if (!(high > 0)) low = 1, high = 10;
    const double a = std::log10(low) - 0.08, b = std::log10(high) + 0.08, side = 420, left = 64, top = 24;
    const auto x = [&](double ms) { return left + side * (std::log10(std::max(ms, 1e-9)) - a) / (b - a); };
    const auto y = [&](double ms) { return top + side - side * (std::log10(std::max(ms, 1e-9)) - a) / (b - a); };
    const double least = std::pow(10, a), most = std::pow(10, b), e = 1 + profile.largeError;
    Markup m;
    {
        const auto svg = m.open("svg", {{"xmlns", "http://www.w3.org/2000/svg"},
                                        {"width", "540"},
                                        {"height", "510"},
                                        {"font-family", "sans-serif"},
                                        {"font-size", "12"}});
        m.mark("rect", {{"width", "540"}, {"height", "510"}, {"fill", "#fff"}});
        {
            const auto clip = m.open("clipPath", {{"id", "c"}});
            m.mark("rect", {{"x", left}, {"y", top}, {"width", side}, {"height", side}});
        }
        m.mark("polygon", {{"clip-path", "url(#c)"},
                           {"points", fmt::format("{:.1f},{:.1f} {:.1f},{:.1f} {:.1f},{:.1f} {:.1f},{:.1f}", x(least),
                                                  y(least / e), x(most), y(most / e), x(most), y(most * e), x(least),
                                                  y(least * e))},
                           {"fill", "#dce6f2"}});
        for (const double step : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0, 5000.0}) {
            if (step < least || step > most) continue;
            m.mark("path", {{"d", fmt::format("M{:.1f} {:.1f}v{:.1f}M{:.1f} {:.1f}h{:.1f}", x(step), top, side, left,
                                              y(step), side)},
                            {"stroke", "#ddd"},
                            {"fill", "none"}});
            m.put("text", number_text(step), {{"x", x(step)}, {"y", top + side + 16}, {"text-anchor", "middle"}});
            m.put("text", number_text(step), {{"x", left - 6}, {"y", y(step) + 4}, {"text-anchor", "end"}});
        }
        m.mark("path", {{"d", fmt::format("M{:.1f} {:.1f}L{:.1f} {:.1f}", x(least), y(least), x(most), y(most))},
                        {"stroke", "#555"},
                        {"stroke-dasharray", "5 4"}});
        m.mark("rect",
               {{"x", left}, {"y", top}, {"width", side}, {"height", side}, {"fill", "none"}, {"stroke", "#888"}});
        for (const CheckedSetup& s : check.setups) {
            const auto circle = m.open("circle", {{"cx", x(s.measuredMs)},
                                                  {"cy", y(s.predictedMs)},
                                                  {"r", "4"},
                                                  {"fill", "#2b5c94"},
                                                  {"fill-opacity", "0.75"}});
            m.put("title",
                  fmt::format("{}: predicted {:.1f}, measured {:.1f} ms", s.name, s.predictedMs, s.measuredMs));
        }
        m.put("text", "measured frame, ms",
              {{"x", left + side / 2}, {"y", top + side + 38}, {"text-anchor", "middle"}});
        m.put("text", "predicted frame, ms",
              {{"transform", fmt::format("translate(16 {:.1f}) rotate(-90)", top + side / 2)},
               {"text-anchor", "middle"}});
    }
    return m.written() + "\n";
}

std::string check_markdown(const ProfileCheck& check, const DeviceProfile& profile, const std::string& plotFile) {
    std::string out = "# Predicted against measured\n\n";
    out += fmt::format(
        "Profile \"{}\" of {}, fitted to {} workloads (residuals: median {:.1f} %, 90th percentile {:.1f} %).\n\n",
        profile.name, profile.device, profile.workloads.size(), 100 * profile.typicalError, 100 * profile.largeError);
    out += fmt::format(
        "{} setups: median absolute error {:.1f} %, 90th percentile {:.1f} %; {:.0f} % of the measured times "
        "lie inside the prediction's error bar (shaded).\n\n",
        check.setups.size(), 100 * check.medianError, 100 * check.p90Error, 100 * check.withinBar);
    out += "![predicted against measured](" + plotFile +
           ")\n\n| setup | predicted ms | measured ms | error |\n|---|---|---|---|\n";
    for (const CheckedSetup& s : check.setups) {
        out += "| " + s.name +
               fmt::format(" | {:.1f} | {:.1f} | {:+.0f} % |\n", s.predictedMs, s.measuredMs, 100 * s.error());
    }
    return out;
}

} // namespace mirolux
