#include "core/ambient/occlusion_audit.h"
#include "core/base/parallel.h"
#include "core/path/path_kind.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

OcclusionErrors occlusion_errors(const std::vector<std::pair<double, double>>& pairs) {
    OcclusionErrors out;
    out.pixels = pairs.size();
    if (pairs.empty()) return out;
    const auto n = static_cast<double>(pairs.size());
    std::vector<double> apart;
    for (const auto& [screen, traced] : pairs) {
        apart.push_back(std::abs(screen - traced));
        out.mean += apart.back() / n;
        out.bias += (screen - traced) / n;
        out.traced += traced / n;
    }
    std::sort(apart.begin(), apart.end());
    out.p95 = apart[static_cast<std::size_t>(0.95 * (n - 1))];
    out.worst = apart.back();
    return out;
}

truth::Options occlusion_truth(const Setup& setup) {
    truth::Options o;
    o.layer = truth::Layer::occlusion;
    o.radius = setup.number("occlusion.radius");
    o.fade = setup.choice("occlusion.kind") == "horizon" ? setup.number("occlusion.fade") : 0;
    return o;
}

OcclusionErrors audit_occlusion(const Scene& scene, const Setup& setup, const View& view,
                                std::shared_ptr<const RayScene> rays, const FloatImage& screen, const FloatImage& depth,
                                int every, std::uint32_t samples, const std::function<bool(double)>& go_on) {
    const truth::PathTracer tracer(scene, setup, view, occlusion_truth(setup), std::move(rays));
    std::vector<std::pair<double, double>> pairs;
    for (int y = every / 2; y < view.height; y += every) {
        if (go_on && !go_on(double(y) / view.height)) break;
        std::vector<std::pair<double, double>> row(static_cast<std::size_t>((view.width + every - 1) / every), {-1, 0});
        parallel_for(0, static_cast<int>(row.size()), [&](int i) {
            const int x = i * every;
            if (!(depth.pixel(x, y)[0] > 0)) return;
            double sum = 0;
            std::uint64_t asked = 0;
            for (std::uint32_t n = 0; n < samples; ++n)
                sum += tracer.sample(x, y, n, asked).x;
            row[static_cast<std::size_t>(i)] = {screen.pixel(x, y)[0], sum / samples};
        });
        for (const auto& pair : row)
            if (pair.first >= 0) pairs.push_back(pair);
    }
    return occlusion_errors(pairs);
}

} // namespace mirolux
