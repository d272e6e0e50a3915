#include "core/blocks/make_blocks.h"
#include "core/blocks/colors.h"
#include "core/motion/scene_at.h"
#include "core/rays/texture_lookup.h"
#include <fmt/format.h>
#include <unordered_map>

namespace mirolux::blocks {

bool triangle_meets_box(const glm::dvec3 (&triangle)[3], const glm::dvec3& middle, const glm::dvec3& half) {
    const glm::dvec3 v[3] = {triangle[0] - middle, triangle[1] - middle, triangle[2] - middle};
    const auto apart = [&](const glm::dvec3& axis) {
        const double a = glm::dot(v[0], axis), b = glm::dot(v[1], axis), c = glm::dot(v[2], axis);
        const double reach = glm::dot(half, glm::abs(axis));
        return std::min({a, b, c}) > reach || std::max({a, b, c}) < -reach;
    };
    for (int a = 0; a < 3; ++a) {
        glm::dvec3 axis(0.0);
        axis[a] = 1;
        if (apart(axis)) return false;
    }
    const glm::dvec3 edges[3] = {v[1] - v[0], v[2] - v[1], v[0] - v[2]};
    const glm::dvec3 normal = glm::cross(edges[0], edges[1]);
    if (std::abs(glm::dot(normal, v[0])) > glm::dot(half, glm::abs(normal))) return false;
    for (const glm::dvec3& e : edges)
        for (int a = 0; a < 3; ++a) {
            glm::dvec3 axis(0.0);
            axis[a] = 1;
            if (apart(glm::cross(axis, e))) return false;
        }
    return true;
}

namespace {

/// Barycentric coordinates of the point of a triangle that is nearest to another (C. Ericson, Real-Time Collision
/// Detection, 2005).
glm::dvec3 nearest_on(const glm::dvec3 (&t)[3], const glm::dvec3& p) {
    const glm::dvec3 ab = t[1] - t[0], ac = t[2] - t[0], ap = p - t[0];
    const double d1 = glm::dot(ab, ap), d2 = glm::dot(ac, ap);
    if (d1 <= 0 && d2 <= 0) return {1, 0, 0};
    const glm::dvec3 bp = p - t[1];
    const double d3 = glm::dot(ab, bp), d4 = glm::dot(ac, bp);
    if (d3 >= 0 && d4 <= d3) return {0, 1, 0};
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return {1 - d1 / (d1 - d3), d1 / (d1 - d3), 0};
    const glm::dvec3 cp = p - t[2];
    const double d5 = glm::dot(ab, cp), d6 = glm::dot(ac, cp);
    if (d6 >= 0 && d5 <= d6) return {0, 0, 1};
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return {1 - d2 / (d2 - d6), 0, d2 / (d2 - d6)};
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const double w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return {0, 1 - w, w};
    }
    const double all = va + vb + vc;
    return all > 0 ? glm::dvec3(va, vb, vc) / all : glm::dvec3(1, 0, 0);
}

/// What surfaces show within a cell: sums over the triangles that meet it.
struct Seen {
    glm::vec4 color{0.0f};
    glm::vec3 emissive{0.0f};
    float roughness = 0, metallic = 0, count = 0;
};

class Voxels {
public:
    Voxels(const Scene& scene, const MakeOptions& options) : scene_(scene), asset_(*scene.asset), options_(options) {}

    Result<Contents> make(const std::function<bool(double)>& more) {
        for (const Object& o : scene_.objects())
            if (shown(o)) bounds_.add(o.bounds);
        if (bounds_.empty())
            return fail("the scene shows nothing to make blocks of", asset_.path, "Place a model in it first.");
        const glm::vec3 cells = bounds_.size() / options_.edge;
        const float most = std::max({cells.x, cells.y, cells.z});
        if (!(most + 3 <= float(largest_edge)))
            return fail(fmt::format("{:.0f} cells along an axis are more than {}", most, largest_edge), asset_.path,
                        fmt::format("Take cells of {:.2f} m or more.",
                                    std::ceil(100 * most * options_.edge / float(largest_edge - 3)) / 100));
        size_ = glm::ivec3(glm::ceil(cells)) + 3;
        corner_ = bounds_.low - options_.edge; // the lowest corner comes to (1, 1, 1)
        const std::vector<Object>& objects = scene_.objects();
        for (std::size_t o = 0; o < objects.size(); ++o) {
            if (more && !more(double(o) / double(objects.size())))
                return fail("stopped before all blocks were made", asset_.path, "Ask again.");
            if (shown(objects[o])) add(objects[o], vertices_of(scene_, o));
        }
        return contents();
    }

private:
    static bool shown(const Object& o) { return !o.hidden && !o.proxy && o.casts != Casting::unseen; }

    void add(const Object& o, const std::vector<Vertex>& vertices) {
        const Primitive& p = asset_.primitives[static_cast<std::size_t>(o.primitive)];
        const mirolux::Material& m = asset_.material_of(o);
        for (std::size_t t = 0; t + 2 < p.indices.size(); t += 3) {
            const Vertex* corner[3];
            glm::dvec3 at[3];
            glm::dvec3 low(1e30), high(-1e30);
            for (std::size_t k = 0; k < 3; ++k) {
                corner[k] = &vertices[p.indices[t + k]];
                const glm::vec3 world(o.transform * glm::vec4(corner[k]->position, 1));
                at[k] = glm::dvec3(world - corner_) / double(options_.edge);
                low = glm::min(low, at[k]);
                high = glm::max(high, at[k]);
            }
            if (!(glm::length(glm::cross(at[1] - at[0], at[2] - at[0])) > 0)) continue; // of no area, or not finite
            const glm::ivec3 from = glm::max(glm::ivec3(glm::floor(low - 1e-6)), glm::ivec3(0)),
                             to = glm::min(glm::ivec3(glm::floor(high + 1e-6)), size_ - 1);
            for (int y = from.y; y <= to.y; ++y)
                for (int z = from.z; z <= to.z; ++z)
                    for (int x = from.x; x <= to.x; ++x) {
                        const glm::dvec3 middle = glm::dvec3(x, y, z) + 0.5;
                        if (!triangle_meets_box(at, middle, glm::dvec3(0.5))) continue;
                        enter({x, y, z}, m, corner, nearest_on(at, middle));
                    }
        }
    }

    glm::vec4 shown_color(int texture, const glm::vec2& uv) const {
        return texture < 0 ? glm::vec4(1) : texture_color(asset_, texture, uv);
    }

    void enter(const glm::ivec3& cell, const mirolux::Material& m, const Vertex* const (&corner)[3],
               const glm::dvec3& at) {
        glm::vec2 uv(0.0f);
        glm::vec4 tint(0.0f);
        for (int k = 0; k < 3; ++k) {
            uv += static_cast<float>(at[k]) * corner[k]->uv;
            const std::uint32_t c = corner[k]->color;
            tint += static_cast<float>(at[k] / 255) * glm::vec4(c & 255, c >> 8 & 255, c >> 16 & 255, c >> 24);
        }
        const auto texture = [&](TextureSlot slot) { return m.textures[static_cast<int>(slot)]; };
        const glm::vec4 color = m.baseColor * tint * shown_color(texture(TextureSlot::baseColor), uv);
        const float alpha = m.alphaMode == AlphaMode::opaque ? 1.0f : color.a;
        if (m.alphaMode == AlphaMode::mask ? alpha < m.alphaCutoff : alpha < 0.02f) return; // a hole
        const int packed = texture(TextureSlot::metallicRoughness);
        const glm::vec4 surface = packed < 0 ? glm::vec4(1) : texture_value(asset_, packed, uv);
        Seen& s = seen_[std::uint64_t(cell.x) | std::uint64_t(cell.y) << 10 | std::uint64_t(cell.z) << 20];
        s.color += glm::vec4(glm::vec3(color), m.alphaMode == AlphaMode::blend ? alpha : 1.0f);
        s.emissive += m.emissive * glm::vec3(shown_color(texture(TextureSlot::emissive), uv));
        s.roughness += m.roughness * surface.g;
        s.metallic += m.metallic * surface.b;
        s.count += 1;
    }

    /// Level whose light, in the default setup, is what a surface of this radiance gives before it: pi times as much.
    static int level_of(double lux) {
        const Setup setup;
        const double share = lux / setup.number("flood.light");
        return static_cast<int>(
            std::lround(most_light * std::min(1.0, std::pow(share, 1 / setup.number("flood.falloff")))));
    }

    /// Each step takes as many levels from all channels, so that light far from a lamp is of its strongest alone: half
    /// of what the others have less is given up for that.
    static glm::ivec3 nearer_white(const glm::ivec3& light) {
        const int most = std::max({light.x, light.y, light.z});
        return {(light.x + most + 1) / 2, (light.y + most + 1) / 2, (light.z + most + 1) / 2};
    }

    Contents contents() {
        Contents out;
        out.name = std::filesystem::path(asset_.path).stem().string() + " in blocks";
        out.world.edge = options_.edge;
        out.world.still = Volume(size_);
        // Kinds by themselves: what shines, what is of metal, what lets light through; within each, colours that are
        // alike.
        std::vector<ColorSample> samples;
        std::vector<std::uint64_t> places;
        std::vector<Seen> values;
        for (const auto& [place, s] : seen_) {
            Seen mean = s;
            mean.color /= s.count;
            mean.emissive /= s.count;
            mean.roughness /= s.count;
            mean.metallic /= s.count;
            places.push_back(place);
            values.push_back(mean);
        }
        for (const Seen& s : values) {
            const bool glows = std::max({s.emissive.x, s.emissive.y, s.emissive.z}) > 0.5f;
            const glm::vec3 color =
                glows ? s.emissive / std::max({s.emissive.x, s.emissive.y, s.emissive.z}) : glm::vec3(s.color);
            samples.push_back({color, (glows ? 1 : 0) | (s.metallic > 0.5f ? 2 : 0) | (s.color.a < 0.98f ? 4 : 0)});
        }
        const std::vector<int> group = alike_colors(samples, std::clamp(options_.materials, 1, 224));
        const int groups = group.empty() ? 0 : *std::max_element(group.begin(), group.end()) + 1;
        std::vector<Seen> sums(static_cast<std::size_t>(groups));
        for (std::size_t i = 0; i < values.size(); ++i) {
            Seen& s = sums[static_cast<std::size_t>(group[i])];
            s.color += values[i].color;
            s.emissive += values[i].emissive;
            s.roughness += values[i].roughness;
            s.metallic += values[i].metallic;
            s.count += 1;
        }
        for (std::size_t g = 0; g < sums.size(); ++g)
            out.world.palette.push_back(material(sums[g], static_cast<int>(g)));
        for (std::size_t i = 0; i < places.size(); ++i)
            out.world.still.set({static_cast<int>(places[i] & 1023), static_cast<int>(places[i] >> 10 & 1023),
                                 static_cast<int>(places[i] >> 20)},
                                static_cast<std::uint8_t>(group[i] + 1));
        if (options_.lamps) add_lamps(out.world);
        for (const Light& l : scene_.lights)
            if (l.type == LightType::directional) out.lights.push_back(l);
        for (Camera c : asset_.cameras) {
            c.eye -= corner_;
            c.aim -= corner_;
            out.cameras.push_back(c);
        }
        return out;
    }

    static Material material(const Seen& sum, int number) {
        Material m;
        const glm::vec3 emissive = sum.emissive / sum.count;
        const float glow = std::max({emissive.x, emissive.y, emissive.z});
        m.color = glm::clamp(glm::vec3(sum.color) / sum.count, 0.0f, 1.0f);
        m.roughness = std::clamp(sum.roughness / sum.count, 0.0f, 1.0f);
        m.metallic = std::clamp(sum.metallic / sum.count, 0.0f, 1.0f);
        m.name = fmt::format("made {}", number + 1);
        if (const float alpha = sum.color.a / sum.count; alpha < 0.98f) {
            m.opacity = std::clamp(alpha, 0.05f, 0.95f);
            m.loss = static_cast<int>(std::lround(4 * alpha));
        }
        if (glow > 0.5f) {
            m.color = emissive / glow;
            m.glow = glow;
            for (int c = 0; c < 3; ++c) // a cell before it sees a fifth of its sky filled by it
                m.light[c] = level_of(3.14159265 * 0.2 * double(emissive[c]));
            m.light = nearer_white(m.light);
        }
        return m;
    }

    /// A cell that shines for each point and spot, as strong as it is one metre away.
    void add_lamps(World& world) const {
        const int aCell = Setup().whole("flood.loss");
        for (const Light& l : scene_.lights) {
            if (!l.enabled || l.intensity <= 0 || l.type == LightType::directional) continue;
            const glm::ivec3 cell(glm::floor((l.position - corner_) / options_.edge));
            if (!world.still.holds(cell)) continue;
            const glm::vec3 color = effective_color(l);
            const float most = std::max({color.x, color.y, color.z, 1e-6f});
            const int top = std::min(most_light, level_of(double(l.intensity)) +
                                                     static_cast<int>(std::lround(float(aCell) / options_.edge)));
            Material m;
            m.name = fmt::format("lamp {}", top);
            m.color = glm::round(8.0f * color / most) / 8.0f; // few enough to share materials
            for (int c = 0; c < 3; ++c)
                m.light[c] = static_cast<int>(
                    std::lround(double(top) * std::pow(double(m.color[c]), 1 / Setup().number("flood.falloff"))));
            m.light = nearer_white(m.light);
            m.glow = 40;
            auto at = std::find_if(world.palette.begin() + 1, world.palette.end(),
                                   [&](const Material& o) { return o.light == m.light && o.glow == m.glow; });
            if (at == world.palette.end()) {
                if (world.palette.size() > 255) continue; // said by the count of lamps
                at = world.palette.insert(world.palette.end(), m);
            }
            world.still.set(cell, static_cast<std::uint8_t>(at - world.palette.begin()));
        }
    }

    const Scene& scene_;
    const SceneAsset& asset_;
    const MakeOptions& options_;
    Box bounds_;
    glm::ivec3 size_{0};
    glm::vec3 corner_{0.0f};
    std::unordered_map<std::uint64_t, Seen> seen_;
};

} // namespace

Result<Contents> make_blocks(const Scene& scene, const MakeOptions& options, const std::function<bool(double)>& more) {
    return Voxels(scene, options).make(more);
}

} // namespace mirolux::blocks
