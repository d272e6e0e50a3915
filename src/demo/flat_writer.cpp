#include "demo/flat_writer.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/scene/project.h"
#include <cstdio>

namespace mirolux::demo {

FlatWriter::FlatWriter(std::string name, const char* seen, int width, int height) {
    json_ = {{"schema", "mirolux.flat"}, {"version", 1}, {"stage", "flat"},
             {"name", std::move(name)},  {"seen", seen}, {"bounds", {{"low", {0, 0}}, {"high", {width, height}}}}};
    for (const char* list : {"sheets", "layers", "tiles", "sprites", "walls", "cameras"})
        json_[list] = Json::array();
    lights_.reserve(256); // light() hands out references
    motions_.reserve(256);
}

glm::vec2 FlatWriter::cell_size(const std::string& sheet) const {
    for (const auto& [name, size] : sizes_)
        if (name == sheet) return size;
    return glm::vec2(0.0f);
}

void FlatWriter::sheet(const std::string& name, const Canvas& canvas, int cellWidth, int cellHeight, float relief,
                       bool shines) {
    sheets_.push_back({name, canvas.colors(), relief > 0 ? canvas.normals(relief) : ByteImage{}, canvas.emission(),
                       relief > 0, shines});
    const int width = cellWidth ? cellWidth : canvas.width(), height = cellHeight ? cellHeight : canvas.height();
    sizes_.emplace_back(name, glm::vec2(width, height));
    json_["sheets"].push_back({{"name", name}, {"cell", {width, height}}});
}

void FlatWriter::layer(const std::string& name, float parallax, bool lit) {
    Json j = {{"name", name}};
    if (parallax != 1.0f) j["parallax"] = parallax;
    if (!lit) j["lit"] = false;
    json_["layers"].push_back(j);
}

int FlatWriter::sprite(const std::string& name, const std::string& layer, const std::string& sheet, glm::vec2 corner,
                       int cell, int cells, float rate) {
    const glm::vec2 middle = corner + 0.5f * cell_size(sheet);
    Json j = {{"id", nextSprite_}, {"name", name}, {"layer", layer}, {"sheet", sheet}, {"place", {middle.x, middle.y}}};
    if (cell) j["cell"] = cell;
    if (cells > 1) {
        j["cells"] = cells;
        j["rate"] = rate;
    }
    json_["sprites"].push_back(j);
    return nextSprite_++;
}

void FlatWriter::tiles(const std::string& name, const std::string& layer, const std::string& sheet, glm::vec2 corner,
                       int columns, const std::vector<int>& cells) {
    json_["tiles"].push_back({{"name", name},
                              {"layer", layer},
                              {"sheet", sheet},
                              {"place", {corner.x, corner.y}},
                              {"columns", columns},
                              {"cells", cells}});
}

void FlatWriter::wall(const std::string& name, const std::vector<glm::vec2>& points, bool closed) {
    Json j = {{"id", nextWall_++}, {"name", name}, {"points", Json::array()}};
    for (const glm::vec2& p : points)
        j["points"].push_back({p.x, p.y});
    if (!closed) j["closed"] = false;
    json_["walls"].push_back(j);
}

void FlatWriter::traced(const std::string& name, int sprite, double tolerance, int inset) {
    json_["walls"].push_back({{"id", nextWall_},
                              {"name", name},
                              {"sprite", sprite},
                              {"trace", {{"alpha", 0.5}, {"tolerance", tolerance}, {"inset", inset}}}});
    nextWall_ += 100; // an outline may come in parts
}

void FlatWriter::height(float units) {
    json_["walls"].back()["height"] = units;
}

void FlatWriter::skies(const std::vector<glm::vec4>& skies) {
    const std::vector<flat::TimeKey>& keys = flat::standard_times();
    for (std::size_t i = 0; i < std::min(keys.size(), skies.size()); ++i)
        json_["times"].push_back({{"hour", keys[i].hour},
                                  {"tint", {keys[i].tint.x, keys[i].tint.y, keys[i].tint.z}},
                                  {"saturation", keys[i].saturation},
                                  {"contrast", keys[i].contrast},
                                  {"brightness", keys[i].brightness},
                                  {"sky", {skies[i].x, skies[i].y, skies[i].z}},
                                  {"skyKeeps", skies[i].w}});
}

void FlatWriter::always_lit(int sprite) {
    for (Json& s : json_["sprites"])
        if (s["id"] == sprite) s["receives"] = false;
}

Light& FlatWriter::light(const std::string& name, LightType type, glm::vec3 place, glm::vec3 color, float intensity,
                         float range) {
    Light l;
    l.id = static_cast<int>(lights_.size()) + 1;
    l.name = name;
    l.type = type;
    l.position = place;
    l.color = color;
    l.intensity = intensity;
    l.range = range;
    if (type == LightType::directional) l.unit = IntensityUnit::lux;
    lights_.push_back(l);
    return lights_.back();
}

Motion& FlatWriter::motion(const Light& light, MotionKind kind, float period) {
    Motion m;
    m.light = light.id;
    m.kind = kind;
    m.period = period;
    motions_.push_back(m);
    return motions_.back();
}

void FlatWriter::camera(const std::string& name, glm::vec2 center, float span) {
    json_["cameras"].push_back({{"name", name}, {"center", {center.x, center.y}}, {"span", span}});
}

Result<void> FlatWriter::write(const std::filesystem::path& folder, const std::string& file) const {
    Json j = json_;
    for (std::size_t i = 0; i < sheets_.size(); ++i) {
        const SheetFiles& s = sheets_[i];
        const auto keep = [&](const char* key, const char* ending, const ByteImage& image) -> Result<void> {
            const std::string name = file + "-" + s.name + ending + ".png";
            j["sheets"][i][key] = name;
            return write_png(folder / name, image);
        };
        if (auto ok = keep("file", "", s.colors); !ok) return ok;
        if (s.hasNormals)
            if (auto ok = keep("normals", "-normals", s.normals); !ok) return ok;
        if (s.shines)
            if (auto ok = keep("emission", "-glow", s.emission); !ok) return ok;
    }
    j["lights"] = Json::array();
    for (const Light& l : lights_)
        j["lights"].push_back(to_json(l));
    j["motions"] = Json::array();
    for (const Motion& m : motions_)
        j["motions"].push_back(to_json(m));
    return write_file_atomically(folder / (file + ".json"), json_text(j, 1) + "\n");
}

static Result<void> write_project(const std::filesystem::path& folder, const std::string& file, const char* name,
                                  const glm::vec3& ambient, const char* shadow) {
    auto open = open_project(folder / (file + ".json"));
    if (!open) return tl::unexpected(open.error());
    Project& p = open->project;
    p.name = name;
    const auto choose = [](Setup& setup, const char* key, const Value& value) {
        if (auto done = setup.set(key, value); !done) std::fprintf(stderr, "%s\n", to_text(done.error()).c_str());
    };
    choose(p.setup, "flat.ambient", ambient);
    choose(p.setup, "flat.normals", true);
    choose(p.setup, "flat.shadow", std::string(shadow));
    p.setups = {
        {"mask", p.setup}, {"small mask", p.setup},    {"darkness cut", p.setup},      {"through walls", p.setup},
        {"dusk", p.setup}, {"night, graded", p.setup}, {"light that travels", p.setup}};
    choose(p.setups[6].second, "flat.kind", std::string("cascades"));
    choose(p.setups[1].second, "mask.scale", std::string("8"));
    choose(p.setups[2].second, "flat.kind", std::string("cut"));
    choose(p.setups[3].second, "flat.shadow", std::string("none"));
    for (const auto& [at, hour] : {std::pair(4, 19.8), {5, 23.0}}) {
        choose(p.setups[static_cast<std::size_t>(at)].second, "flat.kind", std::string("grade"));
        choose(p.setups[static_cast<std::size_t>(at)].second, "grade.time", hour);
    }
    // A target whose picture is made of larger pixels, with a setup of its own.
    Target blocks = plain_target("Handheld, in pixels of 4", 1280, 720, 1000.0 / 30);
    blocks.setup = p.setup;
    choose(*blocks.setup, "flat.pixelScale", std::string("4"));
    p.targets.push_back(blocks);
    Walk walk;
    walk.name = "across the stage";
    walk.span = 0.62f * open->asset->flat->high.y;
    const glm::vec2 low = open->asset->flat->low, high = open->asset->flat->high;
    const float half = 0.5f * walk.span * 16 / 9;
    for (int i = 0; i <= 4; ++i) {
        const float x = low.x + half + (high.x - low.x - 2 * half) * 0.25f * static_cast<float>(i);
        const float y = 0.5f * (low.y + high.y) + (i % 2 ? 1.0f : -1.0f) * 0.1f * high.y;
        walk.keys.push_back({3.0 * i, {x, y, walk.span}, {x, y, 0}});
    }
    p.walks = {walk};
    return save_project(p, *open->asset, folder / (file + ".mirolux"));
}

Result<void> write_flat_stress(const std::filesystem::path& folder, int lights, unsigned seed) {
    auto open = open_project(folder / "net-loft.mirolux");
    if (!open) return tl::unexpected(open.error());
    Project& p = open->project;
    std::mt19937 random(seed);
    const auto share = [&] { return static_cast<float>(random() % 100000) / 100000.0f; };
    p.lights.clear();
    p.motions.clear();
    const glm::vec2 low = p.flat->low + 22.0f, high = p.flat->high - 22.0f;
    for (int i = 0; i < lights; ++i) {
        Light l;
        l.id = i + 1000; // none of the loft's own
        l.name = "lamp " + std::to_string(i + 1);
        l.position = {glm::mix(low.x, high.x, share()), glm::mix(low.y, high.y, share()), 20};
        l.color = glm::mix(glm::vec3(1, 0.6f, 0.3f), glm::vec3(0.4f, 0.7f, 1), share());
        l.range = 22 + 16 * share();
        l.intensity = std::min(1.5f, 40.0f / static_cast<float>(lights));
        p.lights.push_back(l);
    }
    p.name = "loft-" + std::to_string(lights);
    p.path.clear();
    return save_project(p, *open->asset, folder / (p.name + ".mirolux"));
}

Result<void> write_flat_demos(const std::filesystem::path& folder) {
    FlatWriter gate("Tide gate", "side", 480, 270), loft("Net loft", "above", 480, 270);
    paint_tide_gate(gate);
    paint_net_loft(loft);
    if (auto ok = gate.write(folder, "tide-gate"); !ok) return ok;
    if (auto ok = loft.write(folder, "net-loft"); !ok) return ok;
    if (auto ok = write_project(folder, "tide-gate", "Tide gate", {0.10f, 0.13f, 0.22f}, "polygon"); !ok) return ok;
    return write_project(folder, "net-loft", "Net loft", {0.11f, 0.10f, 0.14f}, "quads");
}

} // namespace mirolux::demo
