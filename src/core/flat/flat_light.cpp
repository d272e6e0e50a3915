#include "core/flat/flat_light.h"
#include "core/flat/pixel_font.h"
#include "core/image/image.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <mutex>

namespace mirolux::flat {

namespace {

double window_at(double distance, double range, double falloff) {
    if (distance <= 0) return 1;
    if (!(range > 0) || distance >= range) return 0;
    const double q = distance / range;
    return std::pow(1 - q * q, falloff);
}

/// What shines around a text's letters, beside them: less, so that they can be read.
constexpr double text_halo = 0.4;
/// Texels a side of a text's profile at most.
constexpr int most_texels = 512;

/// To each side, with as far as it shines.
glm::dvec2 text_half(const Light& light) {
    return 0.5 * double(light.flat.size) * glm::dvec2(double(width_of(light.flat.text)) / letter_height, 1.0) +
           double(light.range);
}

glm::dvec2 picture_half(const Light& light, const Sheet& s) {
    return 0.5 * double(light.flat.size) * glm::dvec2(double(s.cellWidth) / s.cellHeight, 1.0);
}

Profile text_profile(const Light& light) {
    Profile out;
    const std::vector<LetterPixel> letters = pixels_of(light.flat.text);
    if (letters.empty()) return out;
    const double pixel = light.flat.size / letter_height, range = light.range;
    out.half = text_half(light);
    const double texel = std::max({0.5 * pixel, 0.5, 2 * out.half.x / most_texels, 2 * out.half.y / most_texels});
    out.width = std::max(1, static_cast<int>(std::ceil(2 * out.half.x / texel)));
    out.height = std::max(1, static_cast<int>(std::ceil(2 * out.half.y / texel)));
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x) {
            const glm::dvec2 p = glm::dvec2((x + 0.5) / out.width, (y + 0.5) / out.height) * 2.0 * out.half - range;
            double nearest = 1e30;
            for (const LetterPixel& l : letters) {
                const glm::dvec2 low = pixel * glm::dvec2(l.column, l.row);
                nearest = std::min(nearest, glm::length(p - glm::clamp(p, low, low + pixel)));
            }
            const double around = text_halo * window_at(nearest, range, light.flat.falloff);
            out.values.emplace_back(static_cast<float>(nearest <= 0 ? 1.0 : around));
        }
    return out;
}

Profile picture_profile(const Light& light, const SceneAsset& asset) {
    Profile out;
    if (!asset.flat) return out;
    for (const Sheet& s : asset.flat->sheets) {
        if (s.name != light.flat.picture) continue;
        const TextureImage& image = asset.images[static_cast<std::size_t>(s.image)];
        out.width = s.cellWidth;
        out.height = s.cellHeight;
        out.half = picture_half(light, s);
        for (int y = 0; y < out.height; ++y)
            for (int x = 0; x < out.width; ++x) {
                const std::uint8_t* p =
                    &image.rgba[4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width) +
                                     static_cast<std::size_t>(x))];
                out.values.push_back(
                    glm::vec3(srgb_decode(p[0] / 255.0), srgb_decode(p[1] / 255.0), srgb_decode(p[2] / 255.0)) *
                    (static_cast<float>(p[3]) / 255.0f));
            }
    }
    return out;
}

glm::dvec2 turned(const glm::dvec2& v, double angle) {
    const double c = std::cos(angle), s = std::sin(angle);
    return {c * v.x - s * v.y, s * v.x + c * v.y};
}

double distance_to_line(const Light& light, const glm::dvec2& point) {
    const glm::dvec2 along = turned({0.5 * light.flat.length, 0}, light.flat.turn),
                     to = point - glm::dvec2(light.position);
    const double l = glm::dot(along, along), t = l > 0 ? glm::clamp(glm::dot(to, along) / l, -1.0, 1.0) : 0;
    return glm::length(to - along * t);
}

double cone_at(const Light& light, const glm::dvec2& point) {
    if (light.type != LightType::spot) return 1;
    const glm::dvec2 to = point - glm::dvec2(light.position);
    const double d = glm::length(to), inner = std::cos(light.innerConeAngle), outer = std::cos(light.outerConeAngle);
    if (d < 1e-9) return 1;
    const double length = glm::length(glm::dvec2(light.direction));
    const glm::dvec2 aim = length > 1e-9 ? glm::dvec2(light.direction) / length : glm::dvec2(0, -1);
    const double t = glm::clamp((glm::dot(to, aim) / d - outer) / std::max(1e-4, inner - outer), 0.0, 1.0);
    return t * t;
}

bool profiled(const Light& light) {
    return light.type == LightType::point &&
           (light.flat.shape == FlatShape::picture || light.flat.shape == FlatShape::text);
}

} // namespace

glm::dvec3 Profile::at(const glm::dvec2& local) const {
    if (empty() || std::abs(local.x) > 1 || std::abs(local.y) > 1) return glm::dvec3(0.0);
    const double u = (local.x * 0.5 + 0.5) * width - 0.5, v = (0.5 - local.y * 0.5) * height - 0.5;
    const double fu = std::floor(u), fv = std::floor(v);
    const auto texel = [&](double x, double y) {
        const auto cx = static_cast<std::size_t>(glm::clamp(x, 0.0, width - 1.0)),
                   cy = static_cast<std::size_t>(glm::clamp(y, 0.0, height - 1.0));
        return glm::dvec3(values[cy * static_cast<std::size_t>(width) + cx]);
    };
    return glm::mix(glm::mix(texel(fu, fv), texel(fu + 1, fv), u - fu),
                    glm::mix(texel(fu, fv + 1), texel(fu + 1, fv + 1), u - fu), v - fv);
}

Profile profile_of(const Light& light, const SceneAsset& asset) {
    if (!profiled(light)) return {};
    return light.flat.shape == FlatShape::text ? text_profile(light) : picture_profile(light, asset);
}

double profile_sum(const Light& light, const SceneAsset& asset) {
    static std::mutex mutex;
    static std::map<std::string, double> sums;
    const std::string key =
        std::to_string(asset.digest) + " " + std::to_string(light.flat.size) + " " + profile_key(light);
    {
        const std::lock_guard lock(mutex);
        if (const auto it = sums.find(key); it != sums.end()) return it->second;
    }
    const Profile p = profile_of(light, asset);
    double sum = 0;
    for (const glm::vec3& v : p.values)
        sum += (double(v.x) + double(v.y) + double(v.z)) / 3;
    if (!p.empty()) sum *= 4 * p.half.x * p.half.y / static_cast<double>(p.values.size());
    const std::lock_guard lock(mutex);
    if (sums.size() > 256) sums.clear(); // a text that is being typed
    return sums[key] = sum;
}

std::string profile_key(const Light& light) {
    if (!profiled(light)) return {};
    if (light.flat.shape == FlatShape::picture) return "picture " + light.flat.picture;
    return fmt::format("text {} {} {} {}", light.flat.size, light.range, light.flat.falloff, light.flat.text);
}

glm::dvec3 light_at(const Light& light, const Profile& profile, const glm::dvec2& point) {
    const glm::dvec3 full = glm::dvec3(effective_color(light)) * double(light.intensity);
    if (light.type == LightType::directional) return full;
    if (profiled(light)) {
        if (profile.empty()) return glm::dvec3(0.0);
        return full * profile.at(turned(point - glm::dvec2(light.position), -light.flat.turn) / profile.half);
    }
    const bool line = light.type == LightType::point && light.flat.shape == FlatShape::line;
    const double d = line ? distance_to_line(light, point) : glm::length(point - glm::dvec2(light.position));
    if (!(light.range > 0)) return glm::dvec3(0.0);
    return full * window_at(d, light.range, light.flat.falloff) * cone_at(light, point);
}

double facing_of(const Light& light, const Sheen& sheen, const glm::dvec3& normal, const glm::dvec2& point) {
    glm::dvec3 to;
    if (light.type == LightType::directional)
        to = -glm::dvec3(light.direction);
    else
        to = glm::dvec3(glm::dvec2(light.position) - point, std::max(1.0, double(light.position.z)));
    to = glm::normalize(to);
    const double facing = std::max(0.0, glm::dot(normal, to));
    double out = facing;
    if (sheen.specular > 0 && facing > 0)
        out += sheen.specular *
               std::pow(std::max(0.0, glm::dot(normal, glm::normalize(to + glm::dvec3(0, 0, 1)))), sheen.gloss);
    if (const glm::dvec2 side(to); sheen.rim > 0 && glm::length(side) > 1e-9) {
        const double leans = glm::clamp((1 - normal.z) / 0.5 - 1, 0.0, 1.0);
        out += sheen.rim * leans * leans * (3 - 2 * leans) *
               std::max(0.0, glm::dot(glm::dvec2(normal), side) / glm::length(side));
    }
    return out;
}

glm::dvec2 profile_half(const Light& light, const World& world) {
    if (!profiled(light)) return glm::dvec2(0.0);
    if (light.flat.shape == FlatShape::text) return text_half(light);
    for (const Sheet& s : world.sheets)
        if (s.name == light.flat.picture) return picture_half(light, s);
    return glm::dvec2(0.0);
}

void bounds_of(const Light& light, const World& world, glm::dvec2& low, glm::dvec2& high) {
    if (light.type == LightType::directional) {
        low = glm::dvec2(-1e30);
        high = glm::dvec2(1e30);
        return;
    }
    glm::dvec2 half(std::max(0.0f, light.range));
    if (profiled(light)) {
        const glm::dvec2 own = profile_half(light, world);
        half = glm::abs(turned({own.x, 0}, light.flat.turn)) + glm::abs(turned({0, own.y}, light.flat.turn));
    } else if (light.type == LightType::point && light.flat.shape == FlatShape::line)
        half += glm::abs(turned({0.5 * light.flat.length, 0}, light.flat.turn));
    low = glm::dvec2(light.position) - half;
    high = glm::dvec2(light.position) + half;
}

std::uint32_t layers_of(const Light& light, const World& world) {
    if (light.flat.layers.empty()) return ~0u;
    std::uint32_t bits = 0;
    for (const std::string& name : light.flat.layers)
        if (const int l = world.layer(name); l >= 0) bits |= 1u << l;
    return bits;
}

glm::dvec2 shadow_origin(const Light& light, const glm::dvec2& point) {
    if (light.type != LightType::directional) return light.position;
    const glm::dvec2 way(light.direction);
    const double length = glm::length(way);
    return length > 1e-9 ? point - way / length * 1e7 : point;
}

double over_walls(const Light& light, const glm::dvec2& point, double height) {
    if (!(height > 0)) return 0;
    if (light.type != LightType::directional) {
        const double z = std::max(1.0, double(light.position.z));
        return z > height ? 1 - height / z : 0;
    }
    if (!(light.direction.z < 0)) return 0;
    const double throws = height * glm::length(glm::dvec2(light.direction)) / -double(light.direction.z),
                 whole = glm::length(point - shadow_origin(light, point));
    return std::max(0.0, 1 - throws / whole);
}

std::vector<LightGroup> groups_of(const std::vector<Light>& lights) {
    std::vector<LightGroup> out;
    for (std::size_t i = 0; i < lights.size(); ++i) {
        const double most = lights[i].flat.strongest;
        const auto it = std::find_if(out.begin(), out.end(), [&](const LightGroup& g) { return g.most == most; });
        LightGroup& group = it != out.end() ? *it : out.emplace_back(LightGroup{most, {}});
        group.lights.push_back(static_cast<int>(i));
    }
    std::sort(out.begin(), out.end(), [](const LightGroup& a, const LightGroup& b) {
        return (a.most > 0 ? a.most : 1e30) < (b.most > 0 ? b.most : 1e30);
    });
    return out;
}

glm::dvec3 joined(const std::vector<LightGroup>& groups, const std::vector<glm::dvec3>& lights, const glm::dvec3& base,
                  Blend blend) {
    glm::dvec3 sum = base;
    for (const LightGroup& g : groups) {
        for (const int i : g.lights) {
            const glm::dvec3& l = lights[static_cast<std::size_t>(i)];
            if (blend == Blend::add)
                sum += l;
            else if (blend == Blend::screen)
                sum = sum + glm::clamp(l, 0.0, 1.0) * (1.0 - sum);
            else
                sum = glm::max(sum, l);
        }
        if (g.most > 0) sum = glm::min(sum, glm::max(glm::dvec3(g.most), base));
    }
    return sum;
}

std::vector<Light> shining_lights(const Scene& scene, double seconds) {
    std::vector<Light> out = lights_at(scene.lights, scene.motions, seconds);
    std::erase_if(
        out, [](const Light& l) { return !l.enabled || l.intensity <= 0.0f || effective_color(l) == glm::vec3(0.0f); });
    return out;
}

DrawList draw_list(const Scene& scene, const View& view) {
    DrawList out;
    const Window window = window_of(view);
    std::vector<Light> bounded;
    for (const Light& light : shining_lights(scene, view.seconds)) {
        ++out.lightsInScene;
        glm::dvec2 low, high;
        bounds_of(light, *scene.flat, low, high);
        if (!window.touches(low, high))
            ++out.lightsOutside;
        else
            (light.type == LightType::directional ? out.lights : bounded).push_back(light);
    }
    out.directional = static_cast<int>(out.lights.size());
    out.lights.insert(out.lights.end(), bounded.begin(), bounded.end());
    for (const Light& light : out.lights) {
        out.reach.push_back(light.range);
        out.fade.push_back(1.0f);
    }
    return out;
}

namespace {

/// What of a convex polygon lies on the inner side of a line: dot(normal, p) >= at.
void keep(std::vector<glm::dvec2>& polygon, const glm::dvec2& normal, double at) {
    std::vector<glm::dvec2> out;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const glm::dvec2 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
        const double da = glm::dot(normal, a) - at, db = glm::dot(normal, b) - at;
        if (da >= 0) out.push_back(a);
        if ((da < 0) != (db < 0)) out.push_back(a + (b - a) * (da / (da - db)));
    }
    polygon = std::move(out);
}

} // namespace

std::vector<glm::vec2> fan_of(const std::vector<Edge>& edges, const Light& light, const World& world,
                              const Window& window) {
    glm::dvec2 low, high;
    bounds_of(light, world, low, high);
    low = glm::max(low, window.low);
    high = glm::min(high, window.high);
    if (!(low.x < high.x && low.y < high.y)) return {};
    const glm::dvec2 from = shadow_origin(light, 0.5 * (window.low + window.high));
    const glm::dvec2 farthest = glm::max(glm::abs(low - from), glm::abs(high - from));
    std::vector<glm::vec2> out;
    const auto emit = [&](std::vector<glm::dvec2> polygon) {
        keep(polygon, {1, 0}, low.x);
        keep(polygon, {-1, 0}, -high.x);
        keep(polygon, {0, 1}, low.y);
        keep(polygon, {0, -1}, -high.y);
        for (std::size_t i = 2; i < polygon.size(); ++i)
            out.insert(out.end(), {glm::vec2(polygon[0]), glm::vec2(polygon[i - 1]), glm::vec2(polygon[i])});
    };
    if (!light.flat.casts || edges.empty()) {
        emit({low, {high.x, low.y}, high, {low.x, high.y}});
        return out;
    }
    const std::vector<glm::dvec2> seen = visible_polygon(edges, from, std::max(farthest.x, farthest.y) * 1.01 + 1.0);
    for (std::size_t i = 0; i < seen.size(); ++i)
        emit({from, seen[i], seen[(i + 1) % seen.size()]});
    return out;
}

} // namespace mirolux::flat
