#include "core/bake/baked_shading.h"
#include "core/light/luminance.h"

namespace mirolux {

namespace {

/// A lookup between four texels of an image whose texels `read` gives.
template <class Read>
glm::dvec3 between(const glm::dvec2& place, int width, int height, const Read& read) {
    const glm::dvec2 at = place - 0.5, low = glm::floor(at), f = at - low;
    glm::dvec3 sum(0.0);
    for (int k = 0; k < 4; ++k) {
        const int x = std::clamp(static_cast<int>(low.x) + k % 2, 0, width - 1),
                  y = std::clamp(static_cast<int>(low.y) + k / 2, 0, height - 1);
        sum += (k % 2 ? f.x : 1 - f.x) * (k / 2 ? f.y : 1 - f.y) * read(x, y);
    }
    return sum;
}

} // namespace

BakedSample baked_sample(const BakedLight& baked, const std::vector<glm::vec3>& factors, const glm::dvec2& place) {
    BakedSample out;
    const int w = baked.layout.width, h = baked.layout.height;
    for (std::size_t i = 0; i < baked.layers.size(); ++i) {
        const StoredLayer& l = baked.layers[i];
        if (factors[i] == glm::vec3(0.0f)) continue;
        const glm::dvec3 light = glm::dvec3(factors[i]) * between(place, w, h, [&](int x, int y) {
                                     return glm::dvec3(restored_texel(l.texels, x, y));
                                 });
        out.light += light;
        for (std::size_t c = 0; c < l.toward.size(); ++c) {
            const glm::dvec3 v = between(place, w, h, [&](int x, int y) {
                const std::uint8_t* p =
                    &l.toward[c].rgba[4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(w) +
                                           static_cast<std::size_t>(x))];
                return glm::dvec3(p[0], p[1], p[2]) / 127.5 - 1.0;
            });
            out.toward[c] +=
                (baked.kind == DirectionKind::dominant ? luminance(light) : light[static_cast<int>(c)]) * v;
        }
    }
    for (int c = 0; c < directions_of(baked.kind); ++c)
        out.toward[c] /= std::max(baked.kind == DirectionKind::dominant ? luminance(out.light) : out.light[c], 1e-12);
    return out;
}

BakedLeaves baked_leaves(const BakedSample& sample, DirectionKind kind, brdf::Model model, const brdf::Surface& surface,
                         double exponent, bool normalised, const glm::dvec3& facing, const glm::dvec3& normal,
                         const glm::dvec3& toEye) {
    BakedLeaves out;
    const glm::dvec3 mirrors = (model == brdf::Model::lambert ? glm::dvec3(0.0) : surface.f0()) / glm::pi<double>();
    const auto evenly = brdf::evaluate(model, surface, exponent, normalised, normal, normal, toEye);
    if (kind == DirectionKind::plain) return {evenly.diffuse * sample.light, {}, mirrors * sample.light};
    const auto add = [&](const glm::dvec3& mask, const glm::dvec3& toward) {
        const double alike = glm::length(toward), focus = baked_focus(alike);
        const glm::dvec3 even = sample.light * mask * ((1 - focus) * (0.5 + 0.5 * glm::dot(facing, normal)));
        out.diffuse += evenly.diffuse * even;
        out.mirrored += mirrors * even;
        if (focus <= 0) return;
        const glm::dvec3 from = toward / alike;
        const glm::dvec3 straight =
            sample.light * mask *
            (focus / std::max(glm::dot(facing, from), 0.05) * std::max(glm::dot(normal, from), 0.0));
        brdf::Surface spread = surface;
        spread.roughness = spread_roughness(surface.roughness, alike);
        const auto lobes = brdf::evaluate(model, spread, exponent, normalised, normal, from, toEye);
        out.diffuse += lobes.diffuse * straight;
        out.specular += lobes.specular * straight;
    };
    if (kind == DirectionKind::dominant)
        add(glm::dvec3(1.0), sample.toward[0]);
    else
        for (int c = 0; c < 3; ++c)
            add(glm::dvec3(c == 0, c == 1, c == 2), sample.toward[c]);
    return out;
}

} // namespace mirolux
