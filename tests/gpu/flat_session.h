#pragma once
#include "core/flat/flat_light.h"
#include "session_fixture.h"
#include "support/flat_scenes.h"

// Flat stages on the device.
namespace mirolux::test {

/// The frame of a flat stage, with what `o` asks for beside it.
inline FrameRecord flat_frame(const FlatStage& s, RenderOptions o = {}) {
    o.fencedSamples = 0;
    o.picture = false;
    auto r = session().render(s.scene, s.setup, s.view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

/// A layer of it.
inline FloatImage flat_floats(const FlatStage& s, const char* layer) {
    RenderOptions o;
    o.floatLayers = {layer};
    return flat_frame(s, o).floats.at(layer);
}

inline void flat_choose(FlatStage& s, const char* key, const char* value) {
    if (auto ok = s.setup.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
}

inline double linear_of(std::uint8_t v) {
    const double s = v / 255.0;
    return s <= 0.04045 ? s / 12.92 : std::pow((s + 0.055) / 1.055, 2.4);
}

/// A light at a point by the stated formula, written here anew: no code of the program's is asked but for rays.
inline glm::dvec3 given(const Light& l, const glm::dvec2& p, const std::vector<flat::Edge>& edges) {
    const glm::dvec2 to = p - glm::dvec2(l.position);
    const double d = glm::length(to), q = std::max(0.0, 1 - d * d / double(l.range) / double(l.range));
    double cone = 1;
    if (l.type == LightType::spot) {
        const double cosine = glm::dot(to / std::max(d, 1e-12), glm::dvec2(l.direction)),
                     outer = std::cos(double(l.outerConeAngle)), inner = std::cos(double(l.innerConeAngle));
        cone = std::pow(glm::clamp((cosine - outer) / (inner - outer), 0.0, 1.0), 2);
    }
    if (!edges.empty() && q * cone > 0 && !flat::sees(edges, glm::dvec2(l.position), p)) return glm::dvec3(0);
    return glm::dvec3(l.color) * double(l.intensity) * q * q * cone;
}

/// The sheet's colour under a pixel of a picture of the sheet's own size.
inline glm::dvec3 sheet_at(const FlatStage& s, int x, int y) {
    const std::uint8_t* t = &s.sheet().rgba[static_cast<std::size_t>(4 * (y * 128 + x))];
    return {linear_of(t[0]), linear_of(t[1]), linear_of(t[2])};
}

inline double worst(const glm::dvec3& d) {
    return std::max({std::abs(d.x), std::abs(d.y), std::abs(d.z)});
}

/// Pixels whose colour differs from the wanted one by more than 1/255.
template <class Wanted>
int wrong_pixels(const FlatStage& s, const Wanted& wanted) {
    const FloatImage picture = flat_floats(s, "final");
    int wrong = 0;
    for (int y = 0; y < 72; ++y)
        for (int x = 0; x < 128; ++x) {
            const float* p = picture.pixel(x, y);
            const glm::dvec2 at(x + 0.5, 72 - y - 0.5);
            wrong += worst(glm::dvec3(p[0], p[1], p[2]) - wanted(x, y, at)) > 1.0 / 255;
        }
    return wrong;
}

} // namespace mirolux::test
