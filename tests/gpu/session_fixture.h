#pragma once
#include "core/account/pixel_account.h"
#include "core/finish/render_scale.h"
#include "gpu/frame/session.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>

namespace mirolux::test {

/// Every path, by its word.
inline constexpr const char* paths[] = {"forward",        "additive",      "deferred",           "volumes",
                                        "tiled-deferred", "tiled-forward", "clustered-deferred", "clustered-forward"};

/// One session for all gpu tests of a process: contexts are dear.
inline gpu::Session& session() {
    static auto made = gpu::Session::create();
    if (!made) qFatal("%s", to_text(made.error()).c_str());
    return **made;
}

/// The session's answer to a request that is not timed.
inline FrameRecord answer_to(const Scene& scene, const Setup& setup, const View& view, RenderOptions o = {}) {
    o.fencedSamples = 0;
    auto r = session().render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

/// The demo as it is opened, at a small size.
struct Demo {
    Scene scene;
    View view;
    std::vector<Camera> cameras;
};
inline Demo demo(int width = 320, int height = 180) {
    auto open = open_project(MIROLUX_DEMO);
    if (!open) qFatal("%s", to_text(open.error()).c_str());
    Demo d{scene_of(*open), open->project.view, open->project.cameras};
    d.view.width = width;
    d.view.height = height;
    return d;
}

inline FloatImage hdr(const Scene& scene, const Setup& setup, const View& view, const std::string& layer = "final") {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {layer};
    auto record = session().render(scene, setup, view, o);
    if (!record) qFatal("%s", to_text(record.error()).c_str());
    return record->floats.at(layer);
}

/// Largest |a-b| / max(|a|, |b|, floor) over all pixels and colour channels. `floor`: radiances below it count as
/// black.
inline double largest_relative_difference(const FloatImage& a, const FloatImage& b, double floor) {
    double worst = 0;
    for (std::size_t i = 0; i < a.data.size(); ++i) {
        if (i % 4 == 3) continue;
        const double x = a.data[i], y = b.data[i];
        worst = std::max(worst, std::abs(x - y) / std::max({std::abs(x), std::abs(y), floor}));
    }
    return worst;
}

/// How far the sum of the layers that add up is from the picture, at most: over the larger of a channel and 0.05 cd/m2.
inline double layers_miss_the_picture(const Scene& scene, const Setup& setup, const View& view) {
    FloatImage sum = hdr(scene, setup, view, "emissive");
    for (const LayerInfo& l : all_layers()) {
        if (!l.addsUp || l.name == "emissive") continue;
        const FloatImage part = hdr(scene, setup, view, l.name);
        for (std::size_t i = 0; i < sum.data.size(); ++i)
            sum.data[i] += part.data[i];
    }
    const FloatImage whole = hdr(scene, setup, view);
    double worst = 0;
    for (std::size_t i = 0; i < sum.data.size(); ++i)
        if (i % 4 != 3)
            worst = std::max(worst, double(std::abs(sum.data[i] - whole.data[i])) / std::max(0.05f, whole.data[i]));
    return worst;
}

/// The account of a pixel of the frame that the session renders.
inline PixelAccount account_at(const Scene& scene, const Setup& setup, const View& view, const glm::ivec2& pixel) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.lightLists = true;
    o.probe = pixel;
    const auto r = session().render(scene, setup, view, o);
    if (!r || !r->probe) qFatal("%s", r ? "no probe" : to_text(r.error()).c_str());
    const View rendered = rendered_view(setup, view);
    return pixel_account(scene, setup, rendered, build_draw_list(scene, setup, rendered), *r->probe, r->lightGrid,
                         r->transparentGrid);
}

} // namespace mirolux::test
