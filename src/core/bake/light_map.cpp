#include "core/bake/light_map.h"
#include "core/bake/light_map_table.h"
#include "core/base/parallel.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/light/head_lamp.h"
#include "core/motion/scene_at.h"
#include "core/scene/geometry.h"
#include "core/scene/project.h"
#include "core/sky/sky_model.h"
#include "core/truth/path_tracer.h"
#include "core/visibility/cells.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace mirolux {

using nlohmann::json;

std::vector<MapPoint> map_points(const Scene& scene, const LightMapLayout& layout) {
    std::vector<std::vector<Texel>> texels;
    for (const MappedMesh& m : layout.meshes)
        texels.push_back(covered_texels(m));
    std::vector<MapPoint> out;
    for (const LightMapLayout::Place& place : layout.places) {
        const Object& o = scene.objects()[static_cast<std::size_t>(place.object)];
        const MappedMesh& m = layout.meshes[static_cast<std::size_t>(place.mesh)];
        const glm::mat3 turn(o.transform), normals = normal_matrix(o.transform);
        for (const Texel& t : texels[static_cast<std::size_t>(place.mesh)]) {
            glm::vec3 at(0.0f), normal(0.0f), corner[3];
            for (int k = 0; k < 3; ++k) {
                const Vertex& v = m.mesh.vertices[m.mesh.indices[3 * t.triangle + static_cast<std::uint32_t>(k)]];
                corner[k] = v.position;
                at += t.weights[k] * v.position;
                normal += t.weights[k] * v.normal;
            }
            MapPoint target;
            target.texel = static_cast<std::size_t>(place.y + t.y) * static_cast<std::size_t>(layout.width) +
                           static_cast<std::size_t>(place.x + t.x);
            SurfacePoint& p = target.point;
            p.position = glm::vec3(o.transform * glm::vec4(at, 1));
            p.side = glm::normalize(glm::cross(turn * (corner[1] - corner[0]), turn * (corner[2] - corner[0])));
            if (o.mirrored) p.side = -p.side;
            const glm::vec3 n = normals * normal;
            p.normal = glm::dot(n, n) > 1e-20f ? glm::normalize(n) : p.side;
            if (glm::dot(p.normal, p.side) <= 0) p.normal = p.side;
            p.receives = o.receives;
            out.push_back(target);
        }
    }
    return out;
}

namespace {

constexpr const char* light_map_schema = "mirolux.lightMap";
constexpr int light_map_version = 2;
constexpr int ways_out = 16; // rays that tell whether a texel lies within something

/// Most ways out meet something from behind: the texel lies within it, and no light there is seen.
bool covered_up(const RayScene& rays, const SurfacePoint& p) {
    glm::dvec3 t, b;
    truth::frame_of(glm::dvec3(p.side), t, b);
    int behind = 0;
    for (int i = 0; i < ways_out; ++i) {
        const double u = (i + 0.5) / ways_out, phi = 2.399963 * i; // the golden angle
        const glm::dvec3 d =
            std::sqrt(u) * (std::cos(phi) * t + std::sin(phi) * b) + std::sqrt(1 - u) * glm::dvec3(p.side);
        const RayHit hit = rays.any_surface({p.position + 1e-4f * p.side, glm::normalize(glm::vec3(d))}, 0, false);
        behind += hit.object >= 0 && !hit.front;
    }
    return behind * 2 > ways_out;
}

} // namespace

namespace {

/// What mobility depends on: hardly ever another from one question to the next.
struct LightsAndMotions {
    std::vector<Light> lights;
    std::vector<Motion> motions;
    std::vector<ClipPlay> clips;
    std::shared_ptr<const SceneAsset> asset;
    bool operator==(const LightsAndMotions&) const = default;
};

std::vector<Mobility> find_mobilities(const Scene& scene) {
    struct Change {
        bool place = false, strength = false;
    };
    std::vector<Change> changes(scene.lights.size());
    const auto place_of = [&](int id) {
        return static_cast<std::size_t>(
            std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& l) { return l.id == id; }) -
            scene.lights.begin());
    };
    for (const Motion& m : scene.motions) {
        const std::size_t i = place_of(m.light);
        if (i == changes.size()) continue;
        const bool strength =
            m.kind == MotionKind::blink || m.kind == MotionKind::pulse || m.kind == MotionKind::flicker;
        (strength ? changes[i].strength : changes[i].place) = true;
    }
    if (scene.asset && scene.asset->rig && scene.asset->rig->moves()) {
        Scene plain = scene;
        plain.motions.clear();
        double longest = 0;
        for (const Clip& clip : scene.asset->rig->clips)
            longest = std::max(longest, clip.seconds);
        for (int t = 0; t < 9; ++t) { // places of a clip where keys are hardly ever all as at rest
            const std::vector<Light> then = lights_at(plain, longest * (t + 0.37) / 9);
            for (std::size_t i = 0; i < then.size() && i < changes.size(); ++i) {
                Light shines = scene.lights[i];
                shines.color = then[i].color;
                shines.kelvin = then[i].kelvin;
                shines.intensity = then[i].intensity;
                changes[i].strength = changes[i].strength || shines != scene.lights[i];
                changes[i].place = changes[i].place || shines != then[i];
            }
        }
    }
    std::vector<Mobility> out;
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const Mobility marked = scene.lights[i].mobility;
        out.push_back(changes[i].place || (changes[i].strength && marked != Mobility::switched) ? Mobility::moving
                                                                                                : marked);
    }
    return out;
}

/// What of a light its share of a map depends on.
json of_light(const Light& l, Mobility mobility) {
    json j = {{"id", l.id},
              {"mobility", word(mobility)},
              {"type", word(l.type)},
              {"range", l.range},
              {"position", to_array(l.position)},
              {"direction", to_array(l.direction)},
              {"cone", {l.innerConeAngle, l.outerConeAngle}},
              {"size", l.sourceSize},
              {"shares", {l.diffuseShare, l.specularShare, l.indirectShare}}};
    if (mobility == Mobility::switched) return j;
    j["color"] = to_array(effective_color(l));
    j["intensity"] = l.enabled ? l.intensity : 0.0f;
    return j;
}

} // namespace

LightMapOptions light_map_options(const Setup& setup) {
    return {static_cast<float>(setup.number("lightmap.density")), setup.whole("lightmap.paths"),
            setup.whole("lightmap.bounces")};
}

std::shared_ptr<const std::vector<Mobility>> mobilities_of(const Scene& scene) {
    static Recent<LightsAndMotions, std::vector<Mobility>> kept(4);
    return kept.of({scene.lights, scene.motions, scene.clips, scene.asset},
                   [&](const LightsAndMotions&) { return find_mobilities(scene); });
}

Scene only_still(const Scene& scene, const Setup& setup) {
    const Stillness stillness = stillness_of(scene, setup);
    std::vector<ObjectEdit> edits = scene.placed ? scene.placed->edits.list() : std::vector<ObjectEdit>(), hidden;
    for (std::size_t i = 0; i < scene.asset->objects.size() && i < scene.asset->objectNames.size(); ++i)
        if (!stillness.still[i]) {
            hidden.push_back(edit_of(edits, *scene.asset, static_cast<int>(i)));
            hidden.back().hidden = true;
        }
    if (hidden.empty()) return scene;
    take_edits(edits, hidden);
    Scene out = scene;
    out.placed = place_objects(*scene.asset, std::move(edits));
    return out;
}

std::string light_map_scene_digest(const Scene& scene, const Setup& setup) {
    Digest d;
    const auto text = [&](const std::string& s) { d.add(s.data(), s.size()); };
    text(still_digest(scene, setup));
    for (const Material& m :
         scene.asset->materials) { // of what is built, and of variants, the file's digest tells nothing
        d.add(&m.baseColor, sizeof m.baseColor);
        d.add(&m.emissive, sizeof m.emissive);
        d.add(&m.metallic, sizeof m.metallic);
        d.add(&m.roughness, sizeof m.roughness);
    }
    static Recent<LightsAndMotions, std::string> kept(4);
    text(*kept.of({scene.lights, scene.motions, scene.clips, scene.asset}, [&](const LightsAndMotions&) {
        std::string all;
        const auto mobilities = mobilities_of(scene);
        for (std::size_t i = 0; i < scene.lights.size(); ++i)
            if ((*mobilities)[i] != Mobility::moving) all += of_light(scene.lights[i], (*mobilities)[i]).dump();
        return all;
    }));
    for (const Setting& s : all_settings())
        if (s.key.starts_with("sky.") || s.key.starts_with("sun.") || s.key.starts_with("moon.") ||
            s.key.starts_with("ambient.") || s.key.starts_with("environment.") || s.key == "light.window" ||
            s.key == "light.threshold")
            text(s.key + "=" + to_text(setup.get(s.key)));
    text(json{{"horizon", to_array(scene.sky.horizon)}, {"zenith", to_array(scene.sky.zenith)}}.dump());
    return d.hex();
}

std::string light_map_digest(const Scene& scene, const Setup& setup, const LightMapOptions& options) {
    Digest d;
    const std::string text =
        light_map_scene_digest(scene, setup) +
        json{{"density", options.density}, {"samples", options.samples}, {"bounces", options.bounces}}.dump();
    d.add(text.data(), text.size());
    return d.hex();
}

LightMapFiles light_map_files(const std::filesystem::path& bakes, const std::string& digest, int light) {
    const std::string name = "lightmap-" + digest, of = name + (light < 0 ? "" : ".light-" + std::to_string(light));
    return {bakes / (name + ".json"),
            bakes / (of + ".direct.exr"),
            bakes / (of + ".indirect.exr"),
            {bakes / (of + ".toward-red.exr"), bakes / (of + ".toward-green.exr"), bakes / (of + ".toward-blue.exr")}};
}

namespace {

/// An index file that says of itself that it is one; what of it is asked for.
struct Index {
    std::string scene;
    LightMapOptions options;
    int width = 0, height = 0;
    std::size_t texels = 0, done = 0;
    struct Switched {
        int light = -1;
        float intensity = 1;
    };
    std::vector<Switched> switched;
};
std::optional<Index> read_index(const std::filesystem::path& file) {
    const auto text = read_file(file);
    if (!text) return std::nullopt;
    const json j = json::parse(text->begin(), text->end(), nullptr, false);
    if (!j.is_object() || j.value("schema", "") != light_map_schema || j.value("version", 0) != light_map_version)
        return std::nullopt;
    try {
        Index out;
        out.scene = j.at("scene").get<std::string>();
        out.options = {j.at("density").get<float>(), j.at("samples").get<int>(), j.at("bounces").get<int>()};
        out.width = j.at("width").get<int>();
        out.height = j.at("height").get<int>();
        out.texels = j.at("texels").get<std::size_t>();
        out.done = j.at("done").get<std::size_t>();
        for (const json& s : j.at("switched"))
            out.switched.push_back({s.at("light").get<int>(), s.at("intensity").get<float>()});
        if (out.done > out.texels) return std::nullopt;
        return out;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

} // namespace

std::vector<KnownMap> known_maps(const Scene& scene, const Setup& setup) {
    std::vector<KnownMap> out;
    if (scene.bakes.empty()) return out;
    const std::string now = light_map_scene_digest(scene, setup);
    std::error_code e;
    for (const auto& entry : std::filesystem::directory_iterator(scene.bakes, e)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with("lightmap-") || !name.ends_with(".json")) continue;
        const auto index = read_index(entry.path());
        if (index && index->scene == now && index->done == index->texels)
            out.push_back({entry.path(), index->options, index->width, index->height,
                           1 + static_cast<int>(index->switched.size())});
    }
    std::sort(out.begin(), out.end(), [](const KnownMap& a, const KnownMap& b) {
        if (a.options.density != b.options.density) return a.options.density > b.options.density;
        return a.options.samples > b.options.samples;
    });
    out.erase(std::unique(out.begin(), out.end(),
                          [](const KnownMap& a, const KnownMap& b) { return a.options.density == b.options.density; }),
              out.end());
    return out;
}

std::filesystem::path find_light_map(const Scene& scene, const Setup& setup, std::string* remark) {
    const auto say = [&](const std::string& text) {
        if (remark) *remark = text;
        return std::filesystem::path();
    };
    if (scene.bakes.empty()) return say("A light map is kept beside a project: save it, then bake.");
    const std::filesystem::path exact =
        light_map_files(scene.bakes, light_map_digest(scene, setup, light_map_options(setup))).index;
    if (const auto index = read_index(exact); index && index->done == index->texels) return exact;
    const std::string now = light_map_scene_digest(scene, setup);
    std::error_code e;
    std::filesystem::path best;
    std::filesystem::file_time_type newest{};
    bool stale = false, under = false;
    for (const auto& entry : std::filesystem::directory_iterator(scene.bakes, e)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with("lightmap-") || !name.ends_with(".json")) continue;
        const auto index = read_index(entry.path());
        if (!index) continue;
        if (index->scene != now) {
            stale = true;
            continue;
        }
        if (index->done < index->texels) {
            under = true;
            continue;
        }
        const auto time = entry.last_write_time(e);
        if (best.empty() || time > newest) {
            best = entry.path();
            newest = time;
        }
    }
    if (!best.empty()) {
        const auto index = read_index(best);
        if (remark && index)
            *remark = fmt::format("The light map in use has {} texels a metre and {} paths a texel: it was baked so.",
                                  index->options.density, index->options.samples);
        return best;
    }
    return say(under ? "The light map is not computed to its end: surfaces are lit live. Bake goes on where it was."
               : stale
                   ? "The light map is stale: what stands still, a still light or the sky has changed since. Surfaces "
                     "are lit live; bake again."
                   : "No light map was baked yet: surfaces are lit live.");
}

namespace {

FloatImage empty_map(const LightMapLayout& layout) {
    FloatImage out{layout.width, layout.height, 4, {}};
    out.data.assign(4 * static_cast<std::size_t>(layout.width) * static_cast<std::size_t>(layout.height), 0.0f);
    return out;
}

/// Texels of a chart's area that have no light of their own take that of the nearest one that has.
void fill(FloatImage& image, const LightMapLayout& layout) {
    for (const LightMapLayout::Place& place : layout.places)
        for (const MappedMesh::Area& area : layout.meshes[static_cast<std::size_t>(place.mesh)].areas) {
            const int x0 = place.x + area.x, y0 = place.y + area.y, x1 = x0 + area.width, y1 = y0 + area.height;
            std::vector<glm::ivec2> front; // rings around what is known
            for (int y = y0; y < y1; ++y)
                for (int x = x0; x < x1; ++x)
                    if (image.pixel(x, y)[3] == 1.0f) front.push_back({x, y});
            std::vector<bool> known(static_cast<std::size_t>(area.width) * static_cast<std::size_t>(area.height),
                                    false);
            const auto seen = [&](int x, int y) {
                return known[static_cast<std::size_t>(y - y0) * static_cast<std::size_t>(area.width) +
                             static_cast<std::size_t>(x - x0)];
            };
            for (const glm::ivec2& p : front)
                seen(p.x, p.y) = true;
            for (std::size_t i = 0; i < front.size(); ++i) {
                const glm::ivec2 p = front[i];
                for (const glm::ivec2 way :
                     {glm::ivec2(1, 0), {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {1, -1}, {-1, 1}, {-1, -1}}) {
                    const glm::ivec2 q = p + way;
                    if (q.x < x0 || q.y < y0 || q.x >= x1 || q.y >= y1 || seen(q.x, q.y)) continue;
                    seen(q.x, q.y) = true;
                    const float* from = image.pixel(p.x, p.y);
                    float* to = image.pixel(q.x, q.y);
                    std::copy(from, from + 3, to);
                    to[3] = 0.5f;
                    front.push_back(q);
                }
            }
        }
}

/// What no lookup reaches takes the nearest light too: blocks of texels that are stored together then differ less.
void fill_between(FloatImage& image) {
    std::vector<glm::ivec2> front;
    std::vector<bool> known(static_cast<std::size_t>(image.width) * static_cast<std::size_t>(image.height), false);
    const auto at = [&](const glm::ivec2& p) {
        return static_cast<std::size_t>(p.y) * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(p.x);
    };
    for (int y = 0; y < image.height; ++y)
        for (int x = 0; x < image.width; ++x)
            if (image.pixel(x, y)[3] > 0) {
                known[at({x, y})] = true;
                front.push_back({x, y});
            }
    for (std::size_t i = 0; i < front.size(); ++i) {
        const glm::ivec2 p = front[i];
        for (const glm::ivec2 way : {glm::ivec2(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
            const glm::ivec2 q = p + way;
            if (q.x < 0 || q.y < 0 || q.x >= image.width || q.y >= image.height || known[at(q)]) continue;
            known[at(q)] = true;
            const float* from = image.pixel(p.x, p.y);
            std::copy(from, from + 3, image.pixel(q.x, q.y));
            front.push_back(q);
        }
    }
}

void fill(LightOfMap& light, const LightMapLayout& layout) {
    for (FloatImage* image : {&light.direct, &light.indirect, &light.toward[0], &light.toward[1], &light.toward[2]}) {
        fill(*image, layout);
        fill_between(*image);
    }
}

/// The pictures of a layer, of the layout's size; nothing where one is missing or another's.
std::optional<LightOfMap> read_layer(const LightMapFiles& files, int width, int height) {
    LightOfMap out;
    const auto take = [&](const std::filesystem::path& file, FloatImage& to) {
        auto image = read_exr(file);
        if (!image || image->width != width || image->height != height || image->channels < 4) return false;
        to = std::move(*image);
        return true;
    };
    if (!take(files.direct, out.direct) || !take(files.indirect, out.indirect)) return std::nullopt;
    for (std::size_t c = 0; c < 3; ++c)
        if (!take(files.toward[c], out.toward[c])) return std::nullopt;
    return out;
}

} // namespace

Result<LightMap> read_light_map(const Scene& scene, const Setup& setup, const std::filesystem::path& file) {
    const auto damaged = [&] {
        return fail("a file of the light map is missing or damaged", file.string(), "Delete it and bake again.");
    };
    const auto index = read_index(file);
    if (!index) return damaged();
    auto layout = lay_out_light_map(scene, setup, index->options.density);
    if (!layout) return tl::unexpected(layout.error());
    if (layout->width != index->width || layout->height != index->height) return damaged();
    const std::string name = file.stem().string();
    LightMap out{std::move(*layout), {}};
    std::vector<Index::Switched> all = {{-1, 1}};
    all.insert(all.end(), index->switched.begin(), index->switched.end());
    for (const Index::Switched& s : all) {
        auto layer =
            read_layer(light_map_files(file.parent_path(), name.substr(9), s.light), index->width, index->height);
        if (!layer) return damaged();
        layer->light = s.light;
        layer->intensity = s.intensity;
        fill(*layer, out.layout);
        out.layers.push_back(std::move(*layer));
    }
    return out;
}

struct LightMapBake::State {
    Scene scene;
    LightMapOptions options;
    LightMapLayout layout;
    std::string digest, sceneDigest, remark;
    std::filesystem::path index;
    std::shared_ptr<const RayScene> rays;
    std::vector<MapPoint> targets;
    /// One of the map's layers: what its light is followed with, and its sums by target.
    struct Layer {
        int light = -1;
        float intensity = 1;
        LightMapFiles files;
        std::unique_ptr<truth::PathTracer> direct, indirect;
        std::vector<glm::vec3> straight, bounced;
        std::vector<glm::mat3> toward;
    };
    std::vector<Layer> layers;
    std::size_t done = 0, doneBefore = 0;
    std::vector<std::uint8_t> covered; // by target: within something
    std::uint64_t raysTaken = 0;
    double seconds = 0;

    void add_layer(const Setup& setup, int light, float intensity, const std::vector<int>& darkDirect,
                   const std::vector<int>& darkIndirect, const Scene& lit) {
        Layer l;
        l.light = light;
        l.intensity = intensity;
        l.files = light_map_files(scene.bakes, digest, light);
        truth::Options o;
        o.bounces = options.bounces;
        o.lampsOnly = light >= 0;
        o.layer = truth::Layer::direct;
        o.dark = darkDirect;
        l.direct = std::make_unique<truth::PathTracer>(lit, setup, View(), o, rays);
        Scene shared = lit; // bounced light by shares
        for (Light& s : shared.lights)
            s.intensity *= s.indirectShare;
        o.layer = truth::Layer::indirect;
        o.dark = darkIndirect;
        l.indirect = std::make_unique<truth::PathTracer>(shared, setup, View(), o, rays);
        l.straight.assign(targets.size(), glm::vec3(0.0f));
        l.bounced.assign(targets.size(), glm::vec3(0.0f));
        l.toward.assign(targets.size(), glm::mat3(0.0f));
        layers.push_back(std::move(l));
    }
    /// What never changes, and a layer for each switched light: as if it were white and on.
    void add_layers(const Setup& setup) {
        const auto mobilities = mobilities_of(scene);
        std::vector<int> notStill, notBounced, all;
        for (const Light& l : lights_of(scene, setup, View())) {
            const auto own =
                std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& s) { return s.id == l.id; });
            const Mobility m = own != scene.lights.end()
                                   ? (*mobilities)[static_cast<std::size_t>(own - scene.lights.begin())]
                               : l.id == head_lamp_id ? Mobility::moving
                                                      : Mobility::mixed;
            all.push_back(l.id);
            if (m != Mobility::still) notStill.push_back(l.id);
            if (m == Mobility::switched || m == Mobility::moving) notBounced.push_back(l.id);
        }
        add_layer(setup, -1, 1, notStill, notBounced, scene);
        for (std::size_t i = 0; i < scene.lights.size(); ++i) {
            if ((*mobilities)[i] != Mobility::switched) continue;
            Scene lit = scene;
            Light& l = lit.lights[i];
            l.enabled = true;
            l.color = glm::vec3(1.0f);
            l.kelvin = 0;
            if (!(l.intensity > 0)) l.intensity = 1;
            std::vector<int> others = all;
            std::erase(others, l.id);
            add_layer(setup, l.id, l.intensity, others, others, lit);
        }
    }

    /// What a run before has kept: so many targets, in order.
    void take_kept() {
        std::error_code e;
        if (!std::filesystem::exists(index, e)) return;
        const auto aside = [&] {
            std::vector<std::filesystem::path> files = {index};
            for (const Layer& l : layers) {
                files.insert(files.end(), {l.files.direct, l.files.indirect});
                files.insert(files.end(), l.files.toward.begin(), l.files.toward.end());
            }
            for (const auto& f : files)
                std::filesystem::rename(f, f.string() + ".damaged", e);
            remark =
                "The light map of these circumstances was damaged and is set aside: " + index.string() + ".damaged.";
        };
        const auto j = read_index(index);
        if (!j || j->width != layout.width || j->height != layout.height || j->done > targets.size() ||
            j->switched.size() + 1 != layers.size())
            return aside();
        std::vector<LightOfMap> read;
        for (std::size_t k = 0; k < layers.size(); ++k) {
            if (k > 0 && j->switched[k - 1].light != layers[k].light) return aside();
            auto layer = read_layer(layers[k].files, layout.width, layout.height);
            if (!layer) return aside();
            if (k > 0 && j->switched[k - 1].intensity != layers[k].intensity) { // it goes on as it was begun
                const float gain = layers[k].intensity / j->switched[k - 1].intensity;
                for (FloatImage* image :
                     {&layer->direct, &layer->indirect, &layer->toward[0], &layer->toward[1], &layer->toward[2]})
                    for (std::size_t i = 0; i < image->data.size(); ++i)
                        if (i % 4 != 3) image->data[i] *= gain;
            }
            read.push_back(std::move(*layer));
        }
        const auto pixel = [](const FloatImage& image, std::size_t texel) {
            const float* p = image.data.data() + texel * static_cast<std::size_t>(image.channels);
            return glm::vec4(p[0], p[1], p[2], p[3]);
        };
        for (std::size_t i = 0; i < j->done; ++i)
            for (std::size_t k = 0; k < layers.size(); ++k) {
                const std::size_t texel = targets[i].texel;
                const glm::vec4 straight = pixel(read[k].direct, texel);
                layers[k].straight[i] = glm::vec3(straight);
                layers[k].bounced[i] = glm::vec3(pixel(read[k].indirect, texel));
                for (int c = 0; c < 3; ++c)
                    layers[k].toward[i][c] = glm::vec3(pixel(read[k].toward[static_cast<std::size_t>(c)], texel));
                covered[i] = straight.w < 0.75f;
            }
        done = doneBefore = j->done;
    }
    void bake(std::size_t i, std::uint64_t& taken) {
        const SurfacePoint& p = targets[i].point;
        covered[i] = covered_up(*rays, p);
        taken += ways_out;
        if (covered[i]) return;
        const auto place = static_cast<std::uint32_t>(i);
        for (Layer& l : layers) {
            glm::dvec3 straight(0.0), bounced(0.0);
            glm::dmat3 toward(0.0);
            for (int n = 0; n < options.samples; ++n) {
                straight += l.direct->falling(p, place, static_cast<std::uint32_t>(n), taken, &toward);
                bounced += l.indirect->falling(p, place, static_cast<std::uint32_t>(n), taken, &toward);
            }
            l.straight[i] = glm::vec3(straight / double(options.samples));
            l.bounced[i] = glm::vec3(bounced / double(options.samples));
            l.toward[i] = glm::mat3(toward / double(options.samples));
        }
    }
    template <class Value>
    FloatImage plain(const Value& value) const {
        FloatImage out = empty_map(layout);
        for (std::size_t i = 0; i < done; ++i) {
            float* p = out.data.data() + 4 * targets[i].texel;
            const glm::vec3 v = value(i);
            for (int c = 0; c < 3; ++c)
                p[c] = v[c];
            p[3] = covered[i] ? 0.5f : 1.0f;
        }
        return out;
    }
    LightOfMap layer(const Layer& l) const {
        LightOfMap out{l.light,
                       l.intensity,
                       plain([&](std::size_t i) { return l.straight[i]; }),
                       plain([&](std::size_t i) { return l.bounced[i]; }),
                       {}};
        for (std::size_t c = 0; c < 3; ++c)
            out.toward[c] = plain([&](std::size_t i) { return l.toward[i][static_cast<int>(c)]; });
        return out;
    }
};

LightMapBake::LightMapBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
LightMapBake::~LightMapBake() = default;

Result<std::unique_ptr<LightMapBake>> LightMapBake::begin(const Scene& scene, const Setup& setup,
                                                          const LightMapOptions& options) {
    auto layout = lay_out_light_map(scene, setup, options.density);
    if (!layout) return tl::unexpected(layout.error());
    if (scene.bakes.empty()) return fail("a light map is kept beside a project", "bake", "Save the project first.");
    std::error_code error;
    std::filesystem::create_directories(scene.bakes, error);
    if (error) return fail("the folder cannot be made: " + error.message(), scene.bakes, "Choose another place.");
    auto s = std::make_unique<State>();
    s->scene = only_still(scene, setup);
    s->options = options;
    s->layout = std::move(*layout);
    s->digest = light_map_digest(scene, setup, options);
    s->sceneDigest = light_map_scene_digest(scene, setup);
    s->index = light_map_files(scene.bakes, s->digest).index;
    s->rays = std::make_shared<RayScene>(s->scene);
    s->targets = map_points(s->scene, s->layout);
    s->covered.assign(s->targets.size(), 0);
    s->add_layers(setup);
    s->take_kept();
    return std::unique_ptr<LightMapBake>(new LightMapBake(std::move(s)));
}

bool LightMapBake::work(double milliseconds, const std::atomic<bool>* stop) {
    State& s = *state_;
    const auto start = std::chrono::steady_clock::now();
    const auto passed = [&] {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    constexpr std::size_t together = 64; // texels between two looks at the clock
    while (s.done < s.targets.size() && passed() < milliseconds && !(stop && *stop)) {
        const std::size_t first = s.done, last = std::min(first + together, s.targets.size());
        std::atomic<std::uint64_t> taken{0};
        parallel_for(0, static_cast<int>(last - first), [&](int i) {
            std::uint64_t own = 0;
            s.bake(first + static_cast<std::size_t>(i), own);
            taken += own;
        });
        s.raysTaken += taken;
        s.done = last;
    }
    s.seconds += passed() / 1000;
    return s.done == s.targets.size();
}

Result<void> LightMapBake::keep() {
    const State& s = *state_;
    json meshes = json::array(), places = json::array();
    for (const MappedMesh& m : s.layout.meshes)
        meshes.push_back({{"width", m.width},
                          {"height", m.height},
                          {"density", m.density},
                          {"charts", m.flat.charts.size()},
                          {"stretch", m.flat.stretch()}});
    for (const LightMapLayout::Place& p : s.layout.places)
        places.push_back({{"object", object_name(s.scene, p.object).id},
                          {"mesh", p.mesh},
                          {"x", p.x},
                          {"y", p.y},
                          {"density", p.density}});
    json switched = json::array();
    for (const State::Layer& l : s.layers) {
        if (l.light >= 0) switched.push_back({{"light", l.light}, {"intensity", l.intensity}});
        const LightOfMap light = s.layer(l);
        if (auto ok = write_exr(l.files.direct, light.direct); !ok) return ok;
        if (auto ok = write_exr(l.files.indirect, light.indirect); !ok) return ok;
        for (std::size_t c = 0; c < 3; ++c)
            if (auto ok = write_exr(l.files.toward[c], light.toward[c]); !ok) return ok;
    }
    return write_file_atomically(s.index, json{{"schema", light_map_schema},
                                               {"version", light_map_version},
                                               {"digest", s.digest},
                                               {"scene", s.sceneDigest},
                                               {"switched", switched},
                                               {"width", s.layout.width},
                                               {"height", s.layout.height},
                                               {"density", s.options.density},
                                               {"samples", s.options.samples},
                                               {"bounces", s.options.bounces},
                                               {"texels", s.targets.size()},
                                               {"done", s.done},
                                               {"area", s.layout.area},
                                               {"meshes", meshes},
                                               {"places", places},
                                               {"remarks", s.layout.remarks}}
                                              .dump(1));
}

LightMapBake::Progress LightMapBake::progress() const {
    const State& s = *state_;
    const std::size_t own = s.done - s.doneBefore;
    return {s.done, s.targets.size(), s.seconds,
            own > 0 ? s.seconds / double(own) * double(s.targets.size() - s.done) : 0, s.raysTaken};
}
const std::string& LightMapBake::digest() const {
    return state_->digest;
}
const std::string& LightMapBake::remark() const {
    return state_->remark;
}

LightMap LightMapBake::map() const {
    LightMap out{state_->layout, {}};
    for (const State::Layer& l : state_->layers) {
        out.layers.push_back(state_->layer(l));
        fill(out.layers.back(), out.layout);
    }
    return out;
}

} // namespace mirolux
