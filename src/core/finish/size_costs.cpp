#include "core/finish/size_costs.h"
#include "core/finish/render_scale.h"
#include <algorithm>
#include <numeric>
#include <random>

namespace mirolux {

Setup at_scale(Setup setup, double scale) {
    for (const char* key : {"output.scaleX", "output.scaleY"})
        (void)setup.set(key, scale);
    return setup;
}

Result<std::vector<SizeCost>> size_costs(RenderSession& session, const Scene& scene, const Setup& setup,
                                         const View& view, int rounds, const std::function<bool(double)>& go_on) {
    struct Size {
        SizeCost cost;
        std::vector<double> ms;
    };
    std::vector<Size> sizes;
    const auto measured = [&](double scale, int samples) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = samples;
        return session.render(scene, at_scale(setup, scale), view, o);
    };
    Error refused;
    const double steps = double(std::size(size_scales)) * (rounds + 1);
    double done = 0;
    for (const double scale : size_scales) { // warmed up, and tried
        if (auto r = measured(scale, 1); r) {
            const View v = rendered_view(at_scale(setup, scale), view);
            sizes.push_back({{scale, v.width, v.height, {}}, {}});
        } else
            refused = r.error();
        if (go_on && !go_on(++done / steps)) return std::vector<SizeCost>{};
    }
    if (sizes.empty()) return tl::unexpected(refused);
    std::mt19937 random(1);
    std::vector<std::size_t> order(sizes.size());
    std::iota(order.begin(), order.end(), std::size_t(0));
    bool going = true;
    for (int round = 0; round < rounds && going; ++round) {
        std::shuffle(order.begin(), order.end(), random);
        for (const std::size_t i : order) {
            auto r = measured(sizes[i].cost.scale, 1);
            if (!r) return tl::unexpected(r.error());
            double sum = 0;
            for (const PassRecord& p : r->passes)
                sum += p.ms.empty() ? 0 : p.ms.front();
            sizes[i].ms.push_back(sum);
            if (go_on && !go_on(++done / steps)) going = false;
        }
    }
    std::vector<SizeCost> out;
    for (Size& s : sizes) {
        if (s.ms.empty()) continue;
        s.cost.frame = bootstrap_median(s.ms, 1);
        out.push_back(s.cost);
    }
    return out;
}

} // namespace mirolux
