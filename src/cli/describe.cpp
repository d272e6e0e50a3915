#include "cli/commands.h"
#include "core/account/ledger.h"
#include "core/base/text.h"
#include "core/blocks/volume.h"
#include "core/flat/world_json.h"
#include "core/io/wire.h"
#include "core/light/falloff.h"
#include "core/motion/scene_at.h"
#include "core/plan/frame_plan.h"
#include <cstdio>
#include <fmt/format.h>

// info, settings, plan: what can be reported without a device.
namespace mirolux::cli {

/// A flat stage's parts, in words and for machines.
static void describe_flat(const OpenProject& open, std::string& text, Json& json) {
    const flat::World& w = *open.project.flat;
    Json layers = Json::array(), sheets = Json::array(), sprites = Json::array(), walls = Json::array();
    std::size_t points = 0, cells = 0;
    for (const flat::Layer& l : w.layers)
        layers.push_back({{"name", l.name}, {"parallax", l.parallax}, {"lit", l.lit}});
    for (const flat::Sheet& s : w.sheets)
        sheets.push_back({{"name", s.name},
                          {"file", s.file},
                          {"cell", {s.cellWidth, s.cellHeight}},
                          {"cells", s.columns * s.rows},
                          {"normals", s.normals >= 0},
                          {"emission", s.emission >= 0}});
    for (const flat::Sprite& s : w.sprites)
        sprites.push_back(flat::to_json(s, w));
    for (const flat::Wall& wall : w.walls) {
        walls.push_back(flat::to_json(wall));
        points += wall.outline.points.size();
    }
    for (const flat::Tiles& t : w.tiles)
        cells += t.cells.size();
    json["seen"] = word(w.seen);
    json["layers"] = layers;
    json["sheets"] = sheets;
    json["sprites"] = sprites;
    json["walls"] = walls;
    json["tiles"] = cells;
    json["bounds"] = {{"low", to_array(w.low)}, {"high", to_array(w.high)}};
    text += fmt::format(
        "  seen from {}, {:.0f} x {:.0f} units\n  {} layers, {} sheets, {} sprites, {} tiles; {} walls with "
        "{} points\n",
        w.seen == flat::Seen::side ? "the side" : "above", w.high.x - w.low.x, w.high.y - w.low.y, w.layers.size(),
        w.sheets.size(), w.sprites.size(), cells, w.walls.size(), points);
    for (const flat::Layer& l : w.layers) {
        const auto count = std::count_if(w.sprites.begin(), w.sprites.end(), [&](const flat::Sprite& s) {
            return &w.layers[static_cast<std::size_t>(s.layer)] == &l;
        });
        text += fmt::format("  {:<24} {} sprites, parallax {:.2g}{}\n", l.name, count, l.parallax,
                            l.lit ? "" : ", not lit");
    }
}

/// A Blocks stage's cells, in words and for machines.
static void describe_blocks(const OpenProject& open, std::string& text, Json& json) {
    const blocks::World& w = *open.project.blocks;
    const glm::ivec3 size = w.still.size();
    std::uint64_t cells = std::uint64_t(size.x) * std::uint64_t(size.y) * std::uint64_t(size.z),
                  solid = w.still.solid();
    std::size_t bytes = w.still.bytes(), chunks = w.still.chunk_count();
    Json palette = Json::array(), props = Json::array();
    for (std::size_t i = 1; i < w.palette.size(); ++i)
        palette.push_back({{"name", w.palette[i].name},
                           {"color", to_array(w.palette[i].color)},
                           {"light", {w.palette[i].light.x, w.palette[i].light.y, w.palette[i].light.z}},
                           {"opacity", w.palette[i].opacity}});
    for (const blocks::Prop& p : w.props) {
        const glm::ivec3 s = p.cells.size();
        props.push_back({{"name", p.name}, {"size", {s.x, s.y, s.z}}, {"solid", p.cells.solid()}, {"rate", p.rate}});
        bytes += p.cells.bytes();
    }
    json["size"] = {size.x, size.y, size.z};
    json["cells"] = cells;
    json["solid"] = solid;
    json["chunks"] = chunks;
    json["bytes"] = bytes;
    json["edge"] = w.edge;
    json["palette"] = palette;
    json["props"] = props;
    text += fmt::format(
        "  {} x {} x {} cells of {:.3g} m, {} of them solid\n  {} chunks, {} with cells of their own, {:.1f} "
        "MiB\n  {} materials, {} props\n",
        size.x, size.y, size.z, w.edge, solid, chunks, w.still.dense_chunks(), double(bytes) / 1048576.0,
        w.palette.size() - 1, w.props.size());
}

/// A light of a flat stage in one line.
static std::string flat_line(const Light& l) {
    const std::string shape =
        l.type == LightType::point && l.flat.shape != FlatShape::round ? word(l.flat.shape) : word(l.type);
    std::string text = fmt::format("  {:<24} {:<11} {:>9}  at {:.0f}, {:.0f}, {:.0f} up  range {}", l.name, shape,
                                   number_text(l.intensity), l.position.x, l.position.y, l.position.z,
                                   l.type == LightType::directional ? std::string("none") : number_text(l.range, 3));
    if (!l.flat.text.empty()) text += "  \"" + l.flat.text + "\"";
    if (!l.flat.picture.empty()) text += "  of " + l.flat.picture;
    if (!l.flat.layers.empty()) text += "  on " + joined(l.flat.layers);
    return text + (l.flat.casts ? "" : "  (no shadows)") + (l.enabled ? "\n" : "  (off)\n");
}

/// Clips, and nodes as they stand at the scene's time.
static void describe_rig(const Scene& scene, Json& json, std::string& text) {
    json["animations"] = json["nodes"] = Json::array();
    if (!scene.asset->rig) return;
    const Rig& rig = *scene.asset->rig;
    const std::vector<ClipPlay> plays = clips_of(scene);
    if (!rig.clips.empty()) text += fmt::format("{} clips\n", rig.clips.size());
    for (const Clip& clip : rig.clips) {
        const bool on = std::any_of(plays.begin(), plays.end(),
                                    [&](const ClipPlay& p) { return p.clip == clip.name && p.on && p.share > 0; });
        json["animations"].push_back(
            {{"name", clip.name}, {"seconds", clip.seconds}, {"channels", clip.channels.size()}, {"plays", on}});
        text += fmt::format("  {:<24} {:7.2f} s  {:4} channels{}\n", clip.name, clip.seconds, clip.channels.size(),
                            on ? "" : "  (off)");
    }
    const Pose& pose = *pose_of(*scene.asset, scene.placed.get());
    for (std::size_t n = 0; n < rig.nodes.size(); ++n) {
        Json matrix = Json::array();
        for (int k = 0; k < 16; ++k)
            matrix.push_back(pose.world[n][k / 4][k % 4]);
        json["nodes"].push_back({{"name", rig.nodes[n].name}, {"matrix", matrix}});
    }
    std::size_t moving = 0;
    const std::vector<Moves> moves = movers(scene);
    for (const Moves m : moves)
        moving += m == Moves::byClip;
    json["bentObjects"] = rig.bodies.size();
    json["movingObjects"] = moving;
    if (moving > 0)
        text += fmt::format("  {} objects move by clips; {} are bent by bones or shapes\n", moving, rig.bodies.size());
}

int info(const Common& c, const std::string& pattern) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const bool isFlat = s->open.project.flat != nullptr;
    const SceneAsset& asset = *s->open.asset;
    const Project& p = s->open.project;
    const double threshold = s->setup.number("light.threshold");
    Json lights = Json::array(), cameras = Json::array(), walks = Json::array();
    int counts[3] = {};
    std::string list;
    for (const Light& l : p.lights) {
        ++counts[static_cast<int>(l.type)];
        Json j = to_json(l);
        j["color"] = to_array(effective_color(l));
        j["derivedRange"] = derived_range(l, static_cast<float>(threshold));
        lights.push_back(j);
        if (isFlat) {
            list += flat_line(l);
            continue;
        }
        list += fmt::format(
            "  {:<24} {:<11} {:>9} {}  at {:.2f}, {:.2f}, {:.2f}  range {}{}\n", l.name, word(l.type),
            number_text(intensity_in(l, l.unit)), word(l.unit), l.position.x, l.position.y, l.position.z,
            l.type == LightType::directional ? "none"
                                             : (number_text(derived_range(l, static_cast<float>(threshold)), 3) + " m"),
            l.enabled ? "" : "  (off)");
    }
    for (const Camera& camera : p.cameras)
        cameras.push_back(to_json(camera));
    for (const Walk& w : p.walks)
        walks.push_back(
            {{"name", w.name}, {"keys", w.keys.size()}, {"seconds", w.keys.back().seconds - w.keys.front().seconds}});
    const Scene scene = scene_of(s->open);
    if (!pattern.empty() && objects_like(asset, pattern).empty())
        return complain(
            {"no object's name or id matches \"" + pattern + "\"", c.scene, "info --objects '*' lists them all."},
            badInput);
    Json objects = Json::array();
    std::string objectList;
    const std::vector<int> like = pattern.empty() ? std::vector<int>{} : objects_like(asset, pattern);
    for (const ObjectRow& row : object_rows(scene)) {
        const Box& b = scene.objects()[static_cast<std::size_t>(row.object)].bounds;
        objects.push_back({{"id", row.id},
                           {"moves", word(row.moves)},
                           {"name", row.name},
                           {"material", row.material},
                           {"triangles", row.triangles},
                           {"hidden", row.hidden},
                           {"bounds", {{"low", to_array(b.low)}, {"high", to_array(b.high)}}}});
        if (std::binary_search(like.begin(), like.end(), row.object))
            objectList +=
                fmt::format("  {:<32} {:8} triangles  {:.2f}, {:.2f}, {:.2f} to {:.2f}, {:.2f}, {:.2f}  {}{}\n", row.id,
                            row.triangles, b.low.x, b.low.y, b.low.z, b.high.x, b.high.y, b.high.z, row.material,
                            row.hidden ? "  (hidden)" : "");
    }
    std::size_t vertices = 0;
    for (const Primitive& primitive : asset.primitives)
        vertices += primitive.vertices.size();
    Json json = {{"schema", "mirolux.info"},
                 {"version", 1},
                 {"stage", word(s->setup.stage)},
                 {"name", p.name},
                 {"scene", p.scenePath},
                 {"triangles", asset.triangles()},
                 {"vertices", vertices},
                 {"objects", objects},
                 {"materials", asset.materials.size() - 1},
                 {"textures", asset.textures.size()},
                 {"bounds", {{"low", to_array(asset.bounds.low)}, {"high", to_array(asset.bounds.high)}}},
                 {"lights", lights},
                 {"moving", p.motions.size()},
                 {"cameras", cameras},
                 {"walks", walks},
                 {"digest",
                  [&] {
                      Digest d;
                      d.value = asset.digest;
                      return d.hex();
                  }()},
                 {"warnings", s->open.warnings}};
    std::string clipList;
    json["scenes"] = asset.sceneNames;
    json["variants"] = asset.variantNames;
    describe_rig(scene, json, clipList);
    if (asset.sceneNames.size() > 1) clipList = "scenes: " + joined(asset.sceneNames) + "\n" + clipList;
    if (!asset.variantNames.empty()) clipList = "variants: " + joined(asset.variantNames) + "\n" + clipList;
    std::string text = p.name + (isFlat ? " (Flat)\n" : p.blocks ? " (Blocks)\n" : " (Solid)\n");
    if (isFlat)
        describe_flat(s->open, text, json);
    else if (p.blocks)
        describe_blocks(s->open, text, json);
    else
        text += fmt::format("  {} triangles in {} objects, {} materials, {} textures\n", asset.triangles(),
                            asset.objects.size(), asset.materials.size() - 1, asset.textures.size()) +
                objectList;
    if (!isFlat && !asset.bounds.empty())
        text += fmt::format("  bounds {:.1f}, {:.1f}, {:.1f} to {:.1f}, {:.1f}, {:.1f} m\n", asset.bounds.low.x,
                            asset.bounds.low.y, asset.bounds.low.z, asset.bounds.high.x, asset.bounds.high.y,
                            asset.bounds.high.z);
    text += fmt::format("{} lights: {} directional, {} point, {} spot; {} move or switch\n", p.lights.size(), counts[0],
                        counts[1], counts[2], p.motions.size()) +
            list;
    text += clipList;
    text += fmt::format("{} cameras\n", p.cameras.size());
    for (const Camera& camera : p.cameras)
        text += "  " + camera.name + "\n";
    text += fmt::format("{} walks\n", p.walks.size());
    for (const Walk& w : p.walks)
        text += fmt::format("  {}, {:.0f} s\n", w.name, w.keys.back().seconds - w.keys.front().seconds);
    for (const std::string& w : s->open.warnings)
        std::fprintf(stderr, "warning: %s\n", w.c_str());
    return deliver(c, text, json);
}

int settings(const Common& c, bool markdown) {
    if (markdown) {
        std::fputs(settings_markdown().c_str(), stdout);
        return done;
    }
    Json list = Json::array();
    std::string text;
    static const char* kinds[] = {"toggle", "whole", "number", "choice", "color", "text"};
    for (const Setting& s : all_settings()) {
        Json j = {{"key", s.key},
                  {"label", s.label},
                  {"station", s.station},
                  {"kind", kinds[static_cast<int>(s.kind)]},
                  {"default", to_json_value(s.standard)},
                  {"unit", s.unit},
                  {"help", s.help}};
        if (s.kind == SettingKind::choice)
            j["choices"] = s.choices;
        else if (s.kind != SettingKind::toggle && s.kind != SettingKind::text)
            j["range"] = {s.low, s.high};
        list.push_back(j);
        text += fmt::format("{:<22} {:<22} default {:<12} ", s.key, s.label, to_text(s.standard));
        text += s.kind == SettingKind::choice   ? joined(s.choices, " | ")
                : s.kind == SettingKind::toggle ? "on | off"
                : s.kind == SettingKind::text   ? "a name"
                                                : number_text(s.low) + " to " + number_text(s.high) + " " + s.unit;
        text += "\n    " + s.help + "\n";
    }
    return deliver(c, text, {{"schema", "mirolux.settings"}, {"version", 1}, {"settings", list}});
}

int plan(const Common& c) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const FramePlan p = plan_frame(scene_of(s->open), s->setup, s->view);
    Json json = to_json(p);
    json["schema"] = "mirolux.plan";
    json["version"] = 1;
    json["size"] = {s->view.width, s->view.height};
    std::string text = fmt::format("{}x{}, {} of {} enabled lights touch the view\n", s->view.width, s->view.height,
                                   p.lightsInView, p.lightsInScene);
    if (p.droppedLights)
        text += fmt::format("path.maxLights drops {} lights over {} objects\n", p.droppedLights, p.droppedObjects);
    for (const std::string& note : p.notes)
        text += note + "\n";
    int n = 0;
    for (const PlannedPass& pass : p.passes) {
        text += fmt::format("{:2} {:<12} {}\n     {} draws, {} triangles", ++n, pass.name, pass.what,
                            pass.expected.at("draws"), pass.expected.at("triangles"));
        if (!pass.reads.empty()) text += "; reads " + joined(pass.reads);
        text += "; writes ";
        for (std::size_t i = 0; i < pass.writes.size(); ++i)
            text += (i ? ", " : "") + pass.writes[i];
        text += "\n";
    }
    text += "resources\n";
    for (const PlannedResource& r : p.resources) {
        const std::string size = r.spec.entries > 0 ? std::string("buffer") : fmt::format("{}x{}", r.width, r.height);
        text += fmt::format("   {:<24} {:<18} {:<10} {:9.3f} MiB  passes {} to {}, memory {}{}\n", r.spec.name,
                            info_of(r.spec.format).word, size, double(r.bytes) / (1 << 20), r.first + 1, r.last + 1,
                            r.allocation + 1, r.spec.kept ? ", kept" : "");
    }
    text +=
        fmt::format("{:.2f} MiB one by one, {:.2f} MiB held, {:.2f} MiB alive at the fullest pass\n",
                    double(p.bytesSum) / (1 << 20), double(p.bytesHeld) / (1 << 20), double(p.bytesPeak) / (1 << 20));
    return deliver(c, text, json);
}

} // namespace mirolux::cli
