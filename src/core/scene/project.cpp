#include "core/scene/project.h"
#include "core/base/text.h"
#include "core/blocks/world_edits.h"
#include "core/flat/flat_import.h"
#include "core/flat/flat_view.h"
#include "core/flat/world_json.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/motion/scene_at.h"
#include <cassert>
#include <unistd.h>

namespace mirolux {

namespace fs = std::filesystem;

Camera camera_on(const Walk& walk, double seconds) {
    Camera camera;
    camera.name = walk.name;
    camera.fovY = walk.fovY;
    camera.span = walk.span;
    if (walk.keys.empty()) return camera;
    const auto& k = walk.keys;
    std::size_t i = 0;
    while (i + 2 < k.size() && k[i + 1].seconds <= seconds)
        ++i;
    const std::size_t j = std::min(i + 1, k.size() - 1);
    const double span = k[j].seconds - k[i].seconds;
    const float t = span > 0 ? static_cast<float>(std::clamp((seconds - k[i].seconds) / span, 0.0, 1.0)) : 0.0f;
    const WalkKey &a = k[i > 0 ? i - 1 : 0], &b = k[i], &c = k[j], &d = k[std::min(j + 1, k.size() - 1)];
    auto blend = [&](const glm::vec3& p0, const glm::vec3& p1, const glm::vec3& p2, const glm::vec3& p3) {
        // Barry and Goldman's pyramid with centripetal knots; coincident keys get a small knot span.
        auto knot = [](const glm::vec3& u, const glm::vec3& v) {
            return std::max(1e-3f, std::sqrt(glm::length(v - u)));
        };
        const float t0 = 0, t1 = t0 + knot(p0, p1), t2 = t1 + knot(p1, p2), t3 = t2 + knot(p2, p3),
                    x = t1 + t * (t2 - t1);
        const glm::vec3 a1 = (t1 - x) / (t1 - t0) * p0 + (x - t0) / (t1 - t0) * p1,
                        a2 = (t2 - x) / (t2 - t1) * p1 + (x - t1) / (t2 - t1) * p2,
                        a3 = (t3 - x) / (t3 - t2) * p2 + (x - t2) / (t3 - t2) * p3;
        const glm::vec3 b1 = (t2 - x) / (t2 - t0) * a1 + (x - t0) / (t2 - t0) * a2,
                        b2 = (t3 - x) / (t3 - t1) * a2 + (x - t1) / (t3 - t1) * a3;
        return (t2 - x) / (t2 - t1) * b1 + (x - t1) / (t2 - t1) * b2;
    };
    camera.eye = blend(a.eye, b.eye, c.eye, d.eye);
    camera.aim = blend(a.aim, b.aim, c.aim, d.aim);
    if (glm::length(camera.aim - camera.eye) < 1e-3f) camera.aim = camera.eye + glm::vec3(0, 0, -1);
    return camera;
}

Camera framing(const Box& box, float fovY) {
    Camera camera;
    camera.name = "whole scene";
    camera.fovY = fovY;
    if (box.empty()) return camera;
    constexpr float aspect = 16.0f / 9.0f, margin = 0.9f;
    const float radius = std::max(0.5f * glm::length(box.size()), 1e-5f); // scenes of millimetres, too
    const glm::vec3 back = glm::normalize(glm::vec3(0.45f, 0.4f, 1.0f)),
                    right = glm::normalize(glm::cross(glm::vec3(0, 1, 0), back)), up = glm::cross(back, right);
    const float ty = std::tan(0.5f * fovY) * margin, tx = ty * aspect;
    float distance = 0.05f * radius, nearest = 1e30f; // the nearest at which all corners are seen
    for (int i = 0; i < 8; ++i) {
        const glm::vec3 corner =
            glm::vec3(i & 1 ? box.high.x : box.low.x, i & 2 ? box.high.y : box.low.y, i & 4 ? box.high.z : box.low.z) -
            box.center();
        const float toward = glm::dot(corner, back);
        distance = std::max(
            {distance, toward + std::abs(glm::dot(corner, right)) / tx, toward + std::abs(glm::dot(corner, up)) / ty});
        nearest = std::min(nearest, -toward);
    }
    camera.aim = box.center();
    camera.eye = camera.aim + back * distance;
    camera.near = std::min(radius * (radius > 5 ? 0.002f : 0.01f), std::max(0.3f * (distance + nearest), 1e-7f));
    return camera;
}

/// Takes what was edited back to where it belongs, so that no target's setup is the working one.
static void leave_target(Project& p) {
    if (!p.shared) return;
    p.targets[static_cast<std::size_t>(p.target)].setup = p.setup;
    p.setup = *std::exchange(p.shared, std::nullopt);
}

static void enter_target(Project& p, int target) {
    p.target = std::clamp(target, 0, static_cast<int>(p.targets.size()) - 1);
    const Target& t = p.targets[static_cast<std::size_t>(p.target)];
    p.view = on_target(p.view, t);
    if (t.setup) p.shared = std::exchange(p.setup, *t.setup);
}

void choose_target(Project& p, int target) {
    leave_target(p);
    enter_target(p, target);
}

void own_setup(Project& p, bool own) {
    Target& t = p.targets[static_cast<std::size_t>(p.target)];
    if (own == p.shared.has_value()) return;
    if (own) {
        t.setup = p.setup;
        p.shared = p.setup;
    } else {
        p.setup = *std::exchange(p.shared, std::nullopt);
        t.setup.reset();
    }
}

void add_target(Project& p) {
    leave_target(p);
    Target t = p.targets[static_cast<std::size_t>(p.target)];
    t.name += " copy";
    p.targets.push_back(std::move(t));
    enter_target(p, static_cast<int>(p.targets.size()) - 1);
}

void erase_target(Project& p) {
    if (p.targets.size() < 2) return;
    leave_target(p);
    p.targets.erase(p.targets.begin() + p.target);
    enter_target(p, p.target);
}

const Setup& setup_on(const Project& p, int target) {
    if (target == p.target) return p.setup;
    const Target& t = p.targets[static_cast<std::size_t>(target)];
    return t.setup ? *t.setup : p.shared ? *p.shared : p.setup;
}

void take_setup_of(Project& p, int target) {
    const bool shares = !p.targets[static_cast<std::size_t>(target)].setup;
    const Setup wanted = setup_on(p, target);
    if (shares) return own_setup(p, false);
    own_setup(p, true);
    p.setup = wanted;
    settle_targets(p);
}

void settle_targets(Project& p) {
    if (p.shared) p.targets[static_cast<std::size_t>(p.target)].setup = p.setup;
}

std::vector<std::string> target_differences(const Project& p, const SceneAsset& asset, int target) {
    const Target& t = p.targets[static_cast<std::size_t>(target)];
    std::vector<std::string> out;
    if (t.setup) out = differences(p.shared ? *p.shared : p.setup, setup_on(p, target));
    for (const int id : t.offLights)
        for (const Light& l : p.lights)
            if (l.id == id) out.push_back(l.name + " off");
    for (const std::string& id : t.offObjects)
        for (const ObjectName& n : asset.objectNames)
            if (n.id == id) out.push_back(id + " hidden");
    return out;
}

EditList edits_on(const Project& p, const SceneAsset& asset, int target) {
    const Target& t = p.targets[static_cast<std::size_t>(target)];
    if (t.offObjects.empty()) return p.objects;
    std::vector<ObjectEdit> edits = p.objects;
    std::vector<ObjectEdit> hidden;
    for (std::size_t o = 0; o < asset.objectNames.size(); ++o)
        if (std::binary_search(t.offObjects.begin(), t.offObjects.end(), asset.objectNames[o].id)) {
            hidden.push_back(edit_of(p.objects, asset, static_cast<int>(o)));
            hidden.back().hidden = true;
        }
    for (ObjectEdit& e : edits)
        e.hidden = e.hidden || (e.proxy && std::binary_search(t.offObjects.begin(), t.offObjects.end(), e.id));
    take_edits(edits, hidden);
    return edits;
}

fs::path bakes_beside(const Project& p) {
    const std::string& file = p.path.empty() ? p.scenePath : p.path;
    std::error_code error;
    const fs::path of = fs::absolute(file, error);
    if (file.empty() || error) return {};
    return of.parent_path() / (of.stem().string() + ".bakes");
}

Scene scene_on(const Project& p, const std::shared_ptr<const SceneAsset>& asset, int target,
               std::shared_ptr<const PlacedObjects> placed) {
    const Target& t = p.targets[static_cast<std::size_t>(target)];
    Scene scene{asset,     p.lights,      p.motions, p.sky,    std::move(placed),
                p.volumes, p.cheapLights, p.flat,    p.probes, p.blocks};
    if (!scene.placed) scene.placed = place_objects(*asset, edits_on(p, *asset, target));
    if (!t.offLights.empty())
        for (Light& l : scene.lights)
            l.enabled = l.enabled && !std::binary_search(t.offLights.begin(), t.offLights.end(), l.id);
    scene.clips = p.clips;
    scene.doors = p.doors;
    scene.drawnRooms = p.drawnRooms;
    scene.bakes = bakes_beside(p).string();
    return scene_at(std::move(scene), p.view.seconds);
}

/// Models are found beside the project where their files are not named in full.
static void beside_project(Project& p, const fs::path& folder) {
    if (!p.built) return;
    std::unordered_map<const Make*, std::shared_ptr<const Make>> found;
    Built next = *p.built;
    for (BuiltThing& t : next.things) {
        if (t.make->model.empty() || fs::path(t.make->model).is_absolute()) continue;
        std::shared_ptr<const Make>& make = found[t.make.get()];
        if (!make) {
            Make absolute = *t.make;
            absolute.model = (folder / absolute.model).lexically_normal().string();
            make = std::make_shared<const Make>(std::move(absolute));
        }
        t.make = make;
    }
    if (!found.empty()) p.built = std::make_shared<const Built>(std::move(next));
}

void remove_things(Project& p, const std::set<std::string>& ids) {
    remove_things(p.built, p.objects, ids);
    const auto of_them = [&](const std::string& object) { return ids.count(object.substr(0, object.find('#'))) > 0; };
    for (Group& g : p.groups)
        std::erase_if(g.objects, of_them);
    std::erase_if(p.groups, [](const Group& g) { return g.lights.empty() && g.objects.empty(); });
    for (Target& t : p.targets)
        std::erase_if(t.offObjects, of_them);
}

static void default_targets(Project& p) {
    if (!p.targets.empty()) return;
    p.targets = standard_targets();
}

static void use_scene(OpenProject& open) {
    const SceneAsset& asset = *open.asset;
    open.project.lights = asset.lights;
    open.project.cameras = asset.cameras;
    open.project.motions = asset.motions;
    open.project.flat = asset.flat;
    open.project.blocks = asset.blocks;
    open.warnings = asset.warnings;
}

/// A camera of its own for a scene that nobody has looked at yet.
static Camera first_camera(const OpenProject& open) {
    return open.project.cameras.empty() ? framing(open.asset->bounds) : open.project.cameras.front();
}

/// A setup that shows a flat scene's sheets as they are: sRGB in, sRGB out.
static void start_flat(Setup& setup) {
    setup.stage = Stage::flat;
    for (const auto& [key, value] :
         {std::pair<const char*, Value>{"tone.curve", std::string("clamp")}, {"output.dither", std::string("none")}})
        if (auto ok = setup.set(key, value); !ok) assert(false);
}

/// All setups of a project are of its scene's stage.
static void set_stage(Project& p, Stage stage) {
    p.setup.stage = stage;
    if (p.b) p.b->stage = stage;
    for (auto& [name, setup] : p.setups)
        setup.stage = stage;
    for (Target& t : p.targets)
        if (t.setup) t.setup->stage = stage;
}

/// Settings are kept where they differ from their defaults: those that were others in an older version are put back.
static Setup setup_of_version(const Json& values, const JsonCursor& at, std::uint64_t version) {
    static const std::pair<const char*, glm::vec3> before2[] = {{"ambient.constant", {0.05f, 0.06f, 0.08f}},
                                                                {"ambient.top", {0.045f, 0.062f, 0.100f}},
                                                                {"ambient.side", {0.040f, 0.046f, 0.060f}},
                                                                {"ambient.bottom", {0.018f, 0.016f, 0.014f}}};
    Setup setup = values.is_null() ? Setup() : setup_from_json(at);
    if (version < 2)
        for (const auto& [key, value] : before2)
            if (values.is_null() || !values.contains(key)) (void)setup.set(key, value);
    return setup;
}

static Group group_from_json(const JsonCursor& j) {
    Group g;
    g.name = j["name"].text();
    const JsonCursor lights = j.list("lights"), objects = j.list("objects");
    for (std::size_t i = 0; i < lights.size(); ++i)
        g.lights.push_back(static_cast<int>(lights.at(i).whole(0x7FFFFFFF)));
    for (std::size_t i = 0; i < objects.size(); ++i)
        g.objects.push_back(objects.at(i).text());
    return g;
}

static std::string lost_words(const std::vector<std::string>& names) {
    const std::size_t shown = std::min<std::size_t>(names.size(), 5);
    std::string text = "edits of objects that the scene file does not have: " +
                       joined(std::vector<std::string>(names.begin(), names.begin() + static_cast<long>(shown)));
    if (names.size() > shown) text += " and " + std::to_string(names.size() - shown) + " more";
    return text + "; they are kept and take effect when the objects return";
}

static Result<OpenProject> read_project(const fs::path& file, const fs::path& projectPath,
                                        const ImportOptions& options) {
    auto bytes = read_file(file);
    if (!bytes) return tl::unexpected(bytes.error());
    OpenProject open;
    Project& p = open.project;
    try {
        const Json json = Json::parse(bytes->begin(), bytes->end());
        const JsonCursor root(json);
        if (root["schema"].text() != "mirolux.project")
            root["schema"].complain("is not mirolux.project", "Open a .mirolux project.");
        const auto version = root["version"].whole(1000);
        if (version > 2) root["version"].complain("is newer than this program", "Update Mirolux.");
        const fs::path scene = root["scene"].text();
        p.path = projectPath.string();
        p.name = root.text("name", projectPath.stem().string());
        p.scenePath =
            (scene.is_absolute() ? scene : fs::absolute(projectPath).parent_path() / scene).lexically_normal().string();
        ImportOptions reading = options;
        if (root.has("choice") && reading.choice == SceneChoice{})
            reading.choice = {root["choice"].text("scene", ""), root["choice"].text("variant", "")};
        p.choice = reading.choice;
        auto asset = import_scene(p.scenePath, reading);
        if (!asset) return tl::unexpected(asset.error());
        if (root.has("built")) {
            p.built = built_from_json(root["built"]);
            beside_project(p, fs::absolute(projectPath).parent_path());
        }
        open.asset = built_on(*asset, p.built);
        use_scene(open);
        if (root.has("sky"))
            p.sky = {root["sky"].vector<3>("horizon", glm::vec3(0.0f)),
                     root["sky"].vector<3>("zenith", glm::vec3(0.0f))};
        const JsonCursor removed = root.list("removedLights"), changed = root.list("lights");
        for (std::size_t i = 0; i < removed.size(); ++i) {
            const int id = static_cast<int>(removed.at(i).whole(0x7FFFFFFF));
            std::erase_if(p.lights, [&](const Light& l) { return l.id == id; });
        }
        for (std::size_t i = 0; i < changed.size(); ++i) {
            const int id = static_cast<int>(changed.at(i)["id"].whole(0x7FFFFFFF));
            const auto it = std::find_if(p.lights.begin(), p.lights.end(), [&](const Light& l) { return l.id == id; });
            if (it != p.lights.end())
                *it = light_from_json(changed.at(i), *it);
            else
                p.lights.push_back(light_from_json(changed.at(i)));
        }
        const JsonCursor objects = root.list("objects"), groups = root.list("groups");
        std::vector<ObjectEdit> edits;
        for (std::size_t i = 0; i < objects.size(); ++i)
            edits.push_back(object_edit_from_json(objects.at(i)));
        take_edits(p.objects, edits);
        if (const auto lost = lost_objects(p.objects, *open.asset); !lost.empty())
            open.warnings.push_back(file.string() + "#/objects: " + lost_words(lost));
        for (std::size_t i = 0; i < groups.size(); ++i)
            p.groups.push_back(group_from_json(groups.at(i)));
        if (p.flat && root.has("flat")) {
            const JsonCursor flat = root["flat"];
            p.flat = std::make_shared<const flat::World>(flat::changed(*p.flat, flat));
        }
        if (p.blocks && root.has("blocks"))
            p.blocks = std::make_shared<const blocks::World>(blocks::changed(*p.blocks, root["blocks"]));
        const JsonCursor motions = root.list("motions"), cameras = root.list("cameras"), walks = root.list("walks"),
                         targets = root.list("targets");
        if (root.has("motions")) p.motions.clear();
        for (std::size_t i = 0; i < motions.size(); ++i)
            p.motions.push_back(motion_from_json(motions.at(i)));
        const JsonCursor clips = root.list("clips");
        for (std::size_t i = 0; i < clips.size(); ++i)
            p.clips.push_back(clip_play_from_json(clips.at(i)));
        const JsonCursor volumes = root.list("volumes");
        for (std::size_t i = 0; i < volumes.size(); ++i)
            p.volumes.push_back(air_volume_from_json(volumes.at(i)));
        const JsonCursor doors = root.list("doors");
        for (std::size_t i = 0; i < doors.size(); ++i)
            p.doors.push_back(door_from_json(doors.at(i)));
        const JsonCursor rooms = root.list("rooms");
        for (std::size_t i = 0; i < rooms.size(); ++i)
            p.drawnRooms.push_back(drawn_room_from_json(rooms.at(i)));
        const JsonCursor cheap = root.list("cheapLights");
        for (std::size_t i = 0; i < cheap.size(); ++i)
            p.cheapLights.push_back(cheap_light_from_json(cheap.at(i)));
        const JsonCursor probes = root.list("probes");
        for (std::size_t i = 0; i < probes.size(); ++i) {
            p.probes.push_back(probe_from_json(probes.at(i)));
            if (std::string& f = p.probes.back().file; !f.empty() && fs::path(f).is_relative())
                f = (fs::absolute(projectPath).parent_path() / f).lexically_normal().string();
        }
        for (std::size_t i = 0; i < cameras.size(); ++i)
            p.cameras.push_back(camera_from_json(cameras.at(i)));
        for (std::size_t i = 0; i < walks.size(); ++i) {
            Walk walk;
            walk.name = walks.at(i)["name"].text();
            walk.fovY = static_cast<float>(walks.at(i).number("fovY", walk.fovY, 0.01, 3.1));
            walk.span = static_cast<float>(walks.at(i).number("span", 0, 0, 1e6));
            const JsonCursor keys = walks.at(i)["keys"];
            for (std::size_t k = 0; k < keys.size(); ++k) {
                walk.keys.push_back(
                    {keys.at(k)["seconds"].number(), keys.at(k)["eye"].vector<3>(), keys.at(k)["aim"].vector<3>()});
                if (k > 0 && walk.keys[k].seconds <= walk.keys[k - 1].seconds)
                    keys.at(k)["seconds"].complain("does not come after the key before");
            }
            if (walk.keys.size() < 2) keys.complain("needs at least two keys");
            p.walks.push_back(walk);
        }
        for (std::size_t i = 0; i < targets.size(); ++i)
            p.targets.push_back(target_from_json(targets.at(i)));
        default_targets(p);
        p.targetByDevice = root.has("target") && root["target"].json().is_string();
        if (!p.targetByDevice)
            p.target = static_cast<int>(root.whole("target", 0, p.targets.size() - 1));
        else if (root["target"].text() != "by device")
            root["target"].complain("must be a target's index or \"by device\"");
        const auto setup_of = [version](const JsonCursor& j) { return setup_of_version(j.json(), j, version); };
        p.setup = root.has("setup") ? setup_of(root["setup"]) : setup_of_version({}, root, version);
        if (root.has("b")) p.b = setup_of(root["b"]);
        if (root.has("setups")) {
            if (!root["setups"].json().is_object()) root["setups"].complain("must be an object of setups by name");
            for (const auto& [name, value] : root["setups"].json().items())
                p.setups.emplace_back(name, setup_of(root["setups"][name.c_str()]));
        }
        if (root.has("view"))
            p.view = view_from_json(root["view"]);
        else
            p.view.camera = first_camera(open);
        if (p.flat) {
            if (!root.has("setup")) start_flat(p.setup);
            set_stage(p, Stage::flat);
        } else if (p.blocks)
            set_stage(p, Stage::blocks);
        enter_target(p, p.target);
    } catch (const ReadFailure& f) {
        return fail(f.what, file.string() + "#" + f.pointer, f.remedy);
    } catch (const Json::exception& e) {
        return fail(std::string("is not JSON: ") + e.what(), file.string(), "Open a .mirolux project or a glTF scene.");
    }
    return open;
}

Result<OpenProject> open_project(const fs::path& path, const ImportOptions& options) {
    if (path.extension() == ".mirolux") return read_project(path, path, options);
    auto asset = import_scene(path, options);
    if (!asset) return tl::unexpected(asset.error());
    OpenProject open;
    open.asset = *asset;
    use_scene(open);
    open.project.name = path.stem().string();
    open.project.scenePath = fs::absolute(path).lexically_normal().string();
    open.project.choice = options.choice;
    default_targets(open.project);
    open.project.targetByDevice = true;
    open.project.view.camera = first_camera(open);
    if (open.project.flat) start_flat(open.project.setup);
    if (open.project.blocks) open.project.setup.stage = Stage::blocks;
    return open;
}

std::string project_text(const Project& p, const SceneAsset& asset, const fs::path& beside) {
    Json j = {{"schema", "mirolux.project"}, {"version", 2}, {"name", p.name}};
    std::error_code ec;
    const fs::path relative = fs::relative(p.scenePath, fs::absolute(beside).parent_path(), ec);
    j["scene"] = ec || relative.empty() ? p.scenePath : relative.generic_string();
    if (!(p.sky == Sky{})) j["sky"] = {{"horizon", to_array(p.sky.horizon)}, {"zenith", to_array(p.sky.zenith)}};
    Json changed = Json::array(), removed = Json::array();
    for (const Light& original : asset.lights)
        if (std::none_of(p.lights.begin(), p.lights.end(), [&](const Light& l) { return l.id == original.id; }))
            removed.push_back(original.id);
    for (const Light& l : p.lights) {
        const auto it =
            std::find_if(asset.lights.begin(), asset.lights.end(), [&](const Light& o) { return o.id == l.id; });
        if (it == asset.lights.end() || !(*it == l)) changed.push_back(to_json(l));
    }
    if (!changed.empty()) j["lights"] = changed;
    if (!removed.empty()) j["removedLights"] = removed;
    auto each = [&](const char* key, const auto& list, auto&& convert) {
        if (list.empty()) return;
        j[key] = Json::array();
        for (const auto& item : list)
            j[key].push_back(convert(item));
    };
    if (!p.choice.scene.empty()) j["choice"]["scene"] = p.choice.scene;
    if (!p.choice.variant.empty()) j["choice"]["variant"] = p.choice.variant;
    if (p.built) {
        Json built = to_json(*p.built);
        for (Json& make : built["makes"])
            if (make.contains("model")) {
                const fs::path near =
                    fs::path(make["model"].get<std::string>()).lexically_relative(fs::absolute(beside).parent_path());
                if (!near.empty()) make["model"] = near.generic_string();
            }
        j["built"] = std::move(built);
    }
    each("objects", p.objects, [](const ObjectEdit& e) { return to_json(e); });
    each("groups", p.groups, [](const Group& g) {
        return Json{{"name", g.name}, {"lights", g.lights}, {"objects", g.objects}};
    });
    if (p.motions != asset.motions) {
        j["motions"] = Json::array();
        for (const Motion& m : p.motions)
            j["motions"].push_back(to_json(m));
    }
    if (p.blocks && asset.blocks && p.blocks != asset.blocks)
        if (Json changes = blocks::changes(*asset.blocks, *p.blocks); !changes.is_null())
            j["blocks"] = std::move(changes);
    if (p.flat && asset.flat && p.flat != asset.flat)
        if (Json changes = flat::changes(*asset.flat, *p.flat); !changes.is_null()) j["flat"] = std::move(changes);
    each("clips", p.clips, [](const ClipPlay& c) { return to_json(c); });
    each("volumes", p.volumes, [](const AirVolume& v) { return to_json(v); });
    each("doors", p.doors, [](const Door& d) { return to_json(d); });
    each("rooms", p.drawnRooms, [](const DrawnRoom& r) { return to_json(r); });
    each("cheapLights", p.cheapLights, [](const CheapLight& l) { return to_json(l); });
    each("probes", p.probes, [&](Probe probe) {
        const fs::path near = fs::path(probe.file).lexically_relative(fs::absolute(beside).parent_path());
        if (!near.empty() && *near.begin() != "..") probe.file = near.generic_string();
        return to_json(probe);
    });
    std::vector<Camera> own;
    for (const Camera& c : p.cameras)
        if (std::find(asset.cameras.begin(), asset.cameras.end(), c) == asset.cameras.end()) own.push_back(c);
    each("cameras", own, [](const Camera& c) { return to_json(c); });
    each("walks", p.walks, [](const Walk& w) {
        Json keys = Json::array();
        for (const WalkKey& k : w.keys)
            keys.push_back({{"seconds", k.seconds}, {"eye", to_array(k.eye)}, {"aim", to_array(k.aim)}});
        Json walk = {{"name", w.name}, {"fovY", w.fovY}, {"keys", keys}};
        if (w.span > 0) walk["span"] = w.span;
        return walk;
    });
    each("targets", p.targets, [](const Target& t) { return to_json(t); });
    j["target"] = p.targetByDevice ? Json("by device") : Json(p.target);
    j["setup"] = to_json(p.shared ? *p.shared : p.setup);
    if (p.b) j["b"] = to_json(*p.b);
    for (const auto& [name, setup] : p.setups)
        j["setups"][name] = to_json(setup);
    j["view"] = to_json(p.view);
    return json_text(j, 2) + "\n";
}

Result<void> save_project(const Project& project, const SceneAsset& asset, const fs::path& path) {
    return write_file_atomically(path, project_text(project, asset, path));
}

fs::path autosave_path(const fs::path& projectPath) {
    return projectPath.string() + ".autosave";
}

Result<void> write_autosave(const Project& project, const SceneAsset& asset, const fs::path& path) {
    if (project.path.empty()) return {};
    return write_file_atomically(path.empty() ? autosave_path(project.path) : path,
                                 project_text(project, asset, project.path));
}

Project rebased(const Project& project, const SceneAsset& from, const SceneAsset& to, std::vector<std::string>& lost) {
    const auto by_id = [](const std::vector<Light>& lights, int id) -> const Light* {
        for (const Light& l : lights)
            if (l.id == id) return &l;
        return nullptr;
    };
    Project out = project;
    out.lights.clear();
    int next = 0;
    for (const auto* lights : {&project.lights, &to.lights})
        for (const Light& l : *lights)
            next = std::max(next, l.id + 1);
    for (const Light& l : to.lights) {
        const Light *old = by_id(from.lights, l.id), *own = by_id(project.lights, l.id);
        if (old && !own) continue; // removed here
        out.lights.push_back(old && own && !(*own == *old) ? *own : l);
    }
    for (const Light& l : project.lights) {
        const Light* old = by_id(from.lights, l.id);
        if (old && !by_id(to.lights, l.id) && !(l == *old)) lost.push_back(l.name);
        if (old) continue;
        out.lights.push_back(l); // added here
        if (by_id(to.lights, l.id)) out.lights.back().id = next++;
    }
    const std::vector<std::string> missing = lost_objects(project.objects, to),
                                   before = lost_objects(project.objects, from);
    for (const std::string& name : missing)
        if (std::find(before.begin(), before.end(), name) == before.end()) lost.push_back(name);
    // What was changed of a flat stage stays, as far as its layers and sheets are still there.
    out.flat = to.flat;
    out.blocks = to.blocks;
    if (project.blocks && from.blocks && to.blocks)
        if (const Json changes = blocks::changes(*from.blocks, *project.blocks); !changes.is_null()) try {
                out.blocks = std::make_shared<const blocks::World>(blocks::changed(*to.blocks, JsonCursor(changes)));
            } catch (const ReadFailure&) {
                lost.push_back("cells that lie beyond the new world"); // of another size now
            }
    if (project.flat && from.flat && to.flat)
        if (const Json changes = flat::changes(*from.flat, *project.flat); !changes.is_null()) try {
                const Json parsed = Json::parse(changes.dump()); // as readers expect their numbers
                out.flat = std::make_shared<const flat::World>(flat::changed(*to.flat, JsonCursor(parsed)));
            } catch (const ReadFailure& f) {
                lost.push_back("changes of the stage (" + f.what + ")");
            }
    out.cameras = to.cameras;
    for (const Camera& c : project.cameras)
        if (std::find(from.cameras.begin(), from.cameras.end(), c) == from.cameras.end()) out.cameras.push_back(c);
    return out;
}

Result<OpenProject> open_autosave(const fs::path& projectPath, const ImportOptions& options) {
    return read_project(autosave_path(projectPath), projectPath, options);
}

} // namespace mirolux
