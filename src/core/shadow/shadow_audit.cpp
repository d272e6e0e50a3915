#include "core/shadow/shadow_audit.h"
#include "core/base/parallel.h"
#include "core/plan/camera_motion.h"
#include "core/rays/surface_point.h"
#include "core/truth/integrals.h"
#include <atomic>
#include <mutex>

namespace mirolux {

namespace {

constexpr std::uint32_t all_samples = 256, first_samples = 64;
/// Texels' widths within which a caster counts as close to the surface, and metres at least.
constexpr double near_texels = 8, near_metres = 0.3;

/// The opaque surface that a pixel shows; none: the sky, or the back of a single-sided surface.
std::optional<SurfacePoint> opaque_surface(const View& view, int x, int y, const RayScene& rays, bool normalMaps) {
    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
    const glm::vec3 forward = glm::normalize(view.camera.aim - view.camera.eye);
    float from = view.camera.near / std::max(glm::dot(ray.direction, forward), 1e-6f);
    for (int pane = 0; pane < 64; ++pane) {
        const RayHit hit = rays.any_surface(ray, from, true);
        if (hit.object < 0) return std::nullopt;
        SurfacePoint s = surface_point(rays, ray, hit, normalMaps);
        if (s.alpha < 1) {
            from = hit.distance + truth::clear_of(s.position);
            continue;
        }
        if (s.back || s.unlit) return std::nullopt;
        return s;
    }
    return std::nullopt;
}

/// Where the light's middle lies from a point: unit, and metres (of a directional light a great many).
std::pair<glm::dvec3, double> toward(const Light& l, const glm::dvec3& p) {
    if (l.type == LightType::directional) return {-glm::dvec3(l.direction), 1e9};
    const glm::dvec3 v = glm::dvec3(l.position) - p;
    const double d = glm::length(v);
    return {v / std::max(d, 1e-6), d};
}

/// The width of a texel of the light's map at a surface, metres; 0 where no map holds it.
double texel_at(const ShadowSet& set, const ShadowedLight& s, const View& view, const Light& light,
                const glm::dvec3& p) {
    if (s.kind == MapKind::cascades) {
        const glm::dvec3 forward = glm::normalize(glm::dvec3(view.camera.aim) - glm::dvec3(view.camera.eye));
        const double depth = glm::dot(p - glm::dvec3(view.camera.eye), forward);
        for (int i = s.first; i < s.first + s.count; ++i)
            if (depth < set.maps[static_cast<std::size_t>(i)].cascade.to)
                return set.maps[static_cast<std::size_t>(i)].texel(1);
        return 0;
    }
    const ShadowMap& first = set.maps[static_cast<std::size_t>(s.first)];
    const glm::dvec3 v = p - glm::dvec3(light.position);
    const double along = s.kind == MapKind::single ? glm::dot(v, glm::dvec3(light.direction))
                                                   : std::max({std::abs(v.x), std::abs(v.y), std::abs(v.z)});
    return first.texel(std::max(along, first.near));
}

class Tracer {
public:
    Tracer(const Setup& setup, const View& view, const DrawList& draws, const ShadowSet& set, const RayScene& rays)
        : setup_(setup), view_(view), draws_(draws), set_(set), rays_(rays),
          threshold_(setup.number("light.threshold")),
          window_(setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared),
          normalMaps_(setup.flag("shading.normalMaps")) {}

    /// The pairs of one row, by light of the set.
    void row(int y, int every, std::vector<std::vector<ShadowPair>>& out) const {
        out.assign(set_.lights.size(), {});
        for (int x = 0; x < view_.width; x += every) {
            const auto surface = opaque_surface(view_, x, y, rays_, normalMaps_);
            if (!surface) continue;
            for (std::size_t i = 0; i < set_.lights.size(); ++i)
                pair(set_.lights[i], *surface, static_cast<std::uint32_t>(y * view_.width + x), out[i]);
        }
    }

private:
    void pair(const ShadowedLight& s, const SurfacePoint& surface, std::uint32_t pixel,
              std::vector<ShadowPair>& out) const {
        Light light = draws_.lights[static_cast<std::size_t>(s.light)];
        const glm::dvec3 p(surface.position);
        const auto [to, metres] = toward(light, p);
        const double facing = glm::dot(to, glm::dvec3(surface.normal));
        if (facing <= 0) return;
        const glm::dvec3 e =
            normal_irradiance(light, p, draws_.reach[static_cast<std::size_t>(s.light)], window_) * facing;
        if (std::max({e.x, e.y, e.z}) <= threshold_) return;
        if (light.shadow.mode == ShadowMode::hard) light.sourceSize = 0;
        const double housing = light.type == LightType::directional ? 0 : s.look.near;
        ShadowPair pair;
        pair.pixel = pixel;
        const double texel = texel_at(set_, s, view_, light, p);
        const double hard = hard_agreement(light, surface, housing, texel / std::max(facing, 0.1), pair.edge);
        pair.open = static_cast<float>(hard);
        if (light.sourceSize > 0) {
            const truth::Estimate first =
                truth::visibility(rays_, surface, light, housing, first_samples, pixel * 2654435761u + 1);
            const bool agreed = !pair.edge && first.value == hard && (hard == 0 || hard == 1);
            pair.open = static_cast<float>(
                agreed ? hard
                       : truth::visibility(rays_, surface, light, housing, all_samples, pixel * 2654435761u + 1).value);
        }
        if (pair.open < 1) {
            const float clear = truth::clear_of(surface.position);
            const RayHit hit =
                rays_.any_surface({surface.position + surface.side * clear, glm::vec3(to)}, clear, false);
            pair.near = hit.object >= 0 && hit.distance < std::max(near_metres, near_texels * texel);
        }
        out.push_back(pair);
    }

    /// Hard visibility of the point; edge: it differs among the point and eight around it, a footprint away.
    double hard_agreement(Light light, const SurfacePoint& s, double housing, double footprint, bool& edge) const {
        light.sourceSize = 0;
        const double here = truth::visibility_sample(rays_, s, light, housing, {});
        glm::vec3 a = std::abs(s.side.x) < 0.9f ? glm::vec3(1, 0, 0) : glm::vec3(0, 1, 0);
        a = glm::normalize(a - s.side * glm::dot(a, s.side));
        const glm::vec3 b = glm::cross(s.side, a);
        for (int k = 0; k < 8 && !edge && footprint > 0; ++k) {
            SurfacePoint beside = s;
            const float angle = static_cast<float>(k) * 0.78539816f;
            beside.position += (a * std::cos(angle) + b * std::sin(angle)) * static_cast<float>(footprint);
            edge = std::abs(truth::visibility_sample(rays_, beside, light, housing, {}) - here) > 1e-3;
        }
        return here;
    }

    const Setup& setup_;
    const View& view_;
    const DrawList& draws_;
    const ShadowSet& set_;
    const RayScene& rays_;
    const double threshold_;
    const RangeWindow window_;
    const bool normalMaps_;
};

} // namespace

ShadowTruth trace_shadows(const Scene&, const Setup& setup, const View& given, const DrawList& draws,
                          const ShadowSet& set, const RayScene& rays, int every,
                          const std::function<bool(double)>& go_on) {
    const View view = eye_views(given).front();
    const Tracer tracer(setup, view, draws, set, rays);
    const int step = std::max(1, every), rows = (view.height + step - 1) / step;
    std::vector<std::vector<std::vector<ShadowPair>>> pairs(static_cast<std::size_t>(rows));
    std::atomic<int> done = 0;
    std::atomic<bool> stopped = false;
    std::mutex told;
    parallel_for(0, rows, [&](int r) {
        if (stopped) return;
        tracer.row(r * step, step, pairs[static_cast<std::size_t>(r)]);
        const int now = ++done;
        if (go_on) {
            const std::lock_guard lock(told);
            if (!stopped && !go_on(double(now) / rows)) stopped = true;
        }
    });
    ShadowTruth out;
    out.width = view.width;
    out.height = view.height;
    out.complete = !stopped;
    for (std::size_t i = 0; i < set.lights.size(); ++i) {
        TracedLight light{set.lights[i].light, {}};
        for (const auto& row : pairs)
            if (i < row.size()) light.pairs.insert(light.pairs.end(), row[i].begin(), row[i].end());
        out.lights.push_back(std::move(light));
    }
    return out;
}

ShadowErrors& ShadowErrors::operator+=(const ShadowErrors& o) {
    pairs += o.pairs;
    edge += o.edge;
    penumbra += o.penumbra;
    missedSum += o.missedSum;
    falseSum += o.falseSum;
    penumbraSum += o.penumbraSum;
    return *this;
}

ShadowErrors shadow_errors(const TracedLight& truth, const FloatImage& share) {
    ShadowErrors e;
    for (const ShadowPair& p : truth.pairs) {
        const double shown = share.data[static_cast<std::size_t>(p.pixel) * static_cast<std::size_t>(share.channels)];
        ++e.pairs;
        if (p.open > 0 && p.open < 1) {
            ++e.penumbra;
            e.penumbraSum += std::abs(shown - double(p.open));
        }
        if (p.edge) {
            ++e.edge;
            continue;
        }
        e.missedSum += std::max(0.0, shown - double(p.open));
        e.falseSum += std::max(0.0, double(p.open) - shown);
    }
    return e;
}

void mark_faults(const TracedLight& truth, const FloatImage& share, double least, std::vector<ShadowFault>& faults) {
    for (const ShadowPair& p : truth.pairs) {
        const double shown = share.data[static_cast<std::size_t>(p.pixel) * static_cast<std::size_t>(share.channels)],
                     over = shown - double(p.open);
        ShadowFault fault = ShadowFault::none;
        if (p.edge)
            fault = ShadowFault::edge;
        else if (over > least)
            fault = p.near ? ShadowFault::detached : ShadowFault::leaking;
        else if (-over > least)
            fault = ShadowFault::acne;
        faults[p.pixel] = std::max(faults[p.pixel], fault);
    }
}

} // namespace mirolux
