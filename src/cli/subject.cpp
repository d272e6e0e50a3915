#include "cli/commands.h"
#include "core/base/text.h"
#include "core/io/file.h"
#include "core/io/json_cursor.h"
#include "core/motion/scene_at.h"
#include "core/scene/starter.h"
#include "core/shadow/caster_proxies.h"
#include <cstdio>

namespace mirolux::cli {

int complain(const Error& error, int code) {
    std::fprintf(stderr, "mirolux-cli: %s\n", to_text(error).c_str());
    return code;
}

Result<void> apply_sets(Setup& setup, const std::vector<std::string>& sets) {
    for (const std::string& s : sets) {
        const auto equals = s.find('=');
        if (equals == std::string::npos)
            return fail("\"" + s + "\" is not key=value", "--set", "Write for example --set path.maxLights=16.");
        if (auto ok = setup.set_text(s.substr(0, equals), s.substr(equals + 1)); !ok) return ok;
    }
    return {};
}

static Result<glm::vec3> triple(const std::string& text, const char* option) {
    glm::vec3 v;
    char rest = 0;
    if (std::sscanf(text.c_str(), "%f,%f,%f%c", &v.x, &v.y, &v.z, &rest) != 3 || !std::isfinite(v.x + v.y + v.z))
        return fail("\"" + text + "\" is not x,y,z", option, "Write three numbers in metres, for example 0,1.7,5.");
    return v;
}

/// Light and exposure for a scene that nobody has set up; what is set on the command line stays.
static Result<void> apply_starter(Subject& s, const Starter& starter, const Common& c) {
    Project& p = s.open.project;
    p.setup = s.setup;
    p.view = s.view;
    if (starter.light) add_starter_light(p);
    if (auto ok = apply_sets(p.setup, c.sets); !ok) return ok;
    const std::string depth = depth_layer(p.setup.stage);
    s.setup = p.setup;
    if (depth.empty()) return {};
    WorkerClient worker(worker_options(c));
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {"final", depth};
    View view = s.view;
    view.stereo = Stereo::off;
    view.width = 240;
    view.height = std::max(1, s.view.height * 240 / s.view.width);
    const auto record = worker.render(scene_of(s.open), p.setup, view, o);
    if (!record) return tl::unexpected(record.error());
    if (const auto ev = metered_ev100(record->floats.at("final"), record->floats.at(depth)))
        expose_starter(p, *ev, starter.light);
    s.setup = p.setup;
    return apply_sets(s.setup, c.sets);
}

/// --target: its size, eyes and setup, and what is off on it.
static Result<void> apply_target(Project& p, const Common& c) {
    if (c.target.empty()) return {};
    std::vector<std::string> names;
    for (std::size_t i = 0; i < p.targets.size(); ++i) {
        names.push_back(p.targets[i].name);
        if (p.targets[i].name != c.target) continue;
        choose_target(p, static_cast<int>(i));
        return {};
    }
    return fail("there is no target named \"" + c.target + "\"", c.scene, "It has: " + joined(names) + ".");
}

/// --hide, --casts, --receives, --move and --proxies.
static Result<void> apply_objects(Subject& s, const Common& c) {
    Project& p = s.open.project;
    const SceneAsset& asset = *s.open.asset;
    const auto each = [&](const std::string& pattern, const char* option, auto&& change) -> Result<void> {
        const std::vector<int> objects = objects_like(asset, pattern);
        if (objects.empty())
            return fail("no object's name or id matches \"" + pattern + "\"", option,
                        "mirolux-cli info SCENE --objects '*' lists them.");
        std::vector<ObjectEdit> edits;
        for (const int o : objects) {
            edits.push_back(edit_of(p.objects, asset, o));
            change(edits.back());
        }
        take_edits(p.objects, edits);
        return {};
    };
    for (const std::string& pattern : c.hide)
        if (auto ok = each(pattern, "--hide", [](ObjectEdit& e) { e.hidden = true; }); !ok) return ok;
    for (const std::string& text : c.casts) {
        const auto equals = text.rfind('=');
        const std::string how = equals == std::string::npos ? std::string() : text.substr(equals + 1);
        std::optional<Casting> casting;
        for (const Casting k : all_castings)
            if (how == word(k)) casting = k;
        if (!casting)
            return fail("\"" + text + "\" is not PATTERN=yes, front, no, unseen or proxied", "--casts",
                        "Write for example --casts 'container*=no'.");
        if (auto ok = each(text.substr(0, equals), "--casts", [&](ObjectEdit& e) { e.casts = *casting; }); !ok)
            return ok;
    }
    for (const std::string& text : c.receives) {
        const auto equals = text.rfind('=');
        const std::string how = equals == std::string::npos ? std::string() : text.substr(equals + 1);
        if (how != "yes" && how != "no")
            return fail("\"" + text + "\" is not PATTERN=yes or no", "--receives",
                        "Write for example --receives 'lamp*=no'.");
        if (auto ok = each(text.substr(0, equals), "--receives", [&](ObjectEdit& e) { e.receives = how == "yes"; });
            !ok)
            return ok;
    }
    for (const std::string& text : c.moves) {
        const auto equals = text.rfind('=');
        if (equals == std::string::npos)
            return fail("\"" + text + "\" is not PATTERN=x,y,z", "--move", "Write for example --move 'crane*=0,0,2'.");
        auto by = triple(text.substr(equals + 1), "--move");
        if (!by) return tl::unexpected(by.error());
        if (auto ok = each(text.substr(0, equals), "--move", [&](ObjectEdit& e) { e.translation += *by; }); !ok)
            return ok;
    }
    for (const std::string& text : c.doors) {
        const auto equals = text.rfind('=');
        float share = 0;
        char rest = 0;
        if (equals == std::string::npos || std::sscanf(text.c_str() + equals + 1, "%f%c", &share, &rest) != 1 ||
            !(share >= 0 && share <= 1))
            return fail("\"" + text + "\" is not PATTERN=SHARE", "--door",
                        "Write for example --door 'door 3=0': closed.");
        bool found = false;
        for (Door& d : p.doors)
            if (name_matches(d.name, text.substr(0, equals))) {
                d.open = share;
                found = true;
            }
        if (!found)
            return fail("no door's name matches", text.substr(0, equals),
                        "The project's doors are in its file, under \"doors\".");
    }
    for (const std::string& text : c.rooms) {
        const auto equals = text.rfind('=');
        DrawnRoom room;
        char rest = 0;
        const bool read = equals != std::string::npos && equals > 0 &&
                          std::sscanf(text.c_str() + equals + 1, "%f,%f,%f,%f,%f,%f%c", &room.low.x, &room.low.y,
                                      &room.low.z, &room.high.x, &room.high.y, &room.high.z, &rest) == 6;
        if (!read || !glm::all(glm::lessThan(room.low, room.high)))
            return fail("\"" + text + "\" is not NAME=x,y,z,x,y,z", "--room",
                        "Write its lowest corner, then its highest: --room 'store=0,0,0,4,3,5'.");
        room.name = text.substr(0, equals);
        for (const DrawnRoom& r : p.drawnRooms)
            room.id = std::max(room.id, r.id);
        ++room.id;
        p.drawnRooms.push_back(room);
    }
    for (const std::string& text : c.proxies) { // last: boxes stand where the objects do
        ProxyFit fit;
        const auto equals = text.rfind('=');
        const std::string pattern = text.substr(0, equals);
        char rest = 0;
        if (equals != std::string::npos && (std::sscanf(text.c_str() + equals + 1, "%f%c", &fit.inset, &rest) != 1 ||
                                            !(fit.inset >= 0 && fit.inset <= 10)))
            return fail("\"" + text + "\" is not PATTERN or PATTERN=METRES", "--proxies",
                        "Write for example --proxies 'container*=0.1': boxes that lie 0.1 m within what they hold.");
        if (auto ok = each(pattern, "--proxies", [](ObjectEdit&) {}); !ok) return ok;
        p.objects = with_proxies(scene_of(s.open), objects_like(asset, pattern), p.objects, fit);
    }
    return {};
}

/// --clip.
static Result<void> apply_clips(Subject& s, const Common& c) {
    if (c.clips.empty()) return {};
    std::vector<std::string> names;
    if (const auto& rig = s.open.asset->rig)
        for (const Clip& clip : rig->clips)
            names.push_back(clip.name);
    std::vector<ClipPlay> plays;
    for (const std::string& name : names) {
        plays.push_back({name});
        plays.back().on = false;
    }
    for (const std::string& text : c.clips) {
        auto at = std::find(names.begin(), names.end(), text);
        double share = 1;
        if (const auto equals = text.rfind('='); at == names.end() && equals != std::string::npos) {
            char rest = 0;
            if (std::sscanf(text.c_str() + equals + 1, "%lf%c", &share, &rest) != 1 || !(share >= 0 && share <= 1000))
                return fail("\"" + text + "\" is not NAME or NAME=SHARE", "--clip",
                            "Write for example --clip walk=0.5.");
            at = std::find(names.begin(), names.end(), text.substr(0, equals));
        }
        if (at == names.end())
            return fail("there is no clip named \"" + text + "\"", c.scene,
                        names.empty() ? "The scene has no clips." : "It has: " + joined(names) + ".");
        ClipPlay& play = plays[static_cast<std::size_t>(at - names.begin())];
        play.on = true;
        play.share = share;
    }
    s.open.project.clips = std::move(plays);
    return {};
}

Result<Subject> subject_of(const Common& c, bool decodeImages) {
    auto open = open_project(c.scene, {.decodeImages = decodeImages, .choice = c.choice});
    if (!open) return tl::unexpected(open.error());
    for (const auto& [wanted, names, option] : {std::tuple(&c.choice.scene, &open->asset->sceneNames, "--scene"),
                                                {&c.choice.variant, &open->asset->variantNames, "--variant"}})
        if (!wanted->empty() && std::find(names->begin(), names->end(), *wanted) == names->end())
            return fail("the file has no \"" + *wanted + "\"", option,
                        names->empty() ? "It offers none." : "It has: " + joined(*names) + ".");
    Subject s{std::move(*open), {}, {}};
    if (auto ok = apply_target(s.open.project, c); !ok) return tl::unexpected(ok.error());
    if (auto ok = apply_clips(s, c); !ok) return tl::unexpected(ok.error());
    s.setup = s.open.project.setup;
    s.view = s.open.project.view;
    if (!c.setupName.empty()) {
        bool found = false;
        std::vector<std::string> names;
        for (const auto& [name, setup] : s.open.project.setups) {
            names.push_back(name);
            if (name == c.setupName) {
                s.setup = setup;
                found = true;
            }
        }
        if (!found)
            return fail("there is no setup named \"" + c.setupName + "\"", c.scene,
                        names.empty() ? "The project keeps no named setups." : "It has: " + joined(names) + ".");
    }
    if (auto ok = apply_sets(s.setup, c.sets); !ok) return tl::unexpected(ok.error());
    if (!c.size.empty()) {
        char rest = 0;
        if (std::sscanf(c.size.c_str(), "%dx%d%c", &s.view.width, &s.view.height, &rest) != 2 || s.view.width < 1 ||
            s.view.height < 1 || s.view.width > 16384 || s.view.height > 16384)
            return fail("\"" + c.size + "\" is not a picture size", "--size", "Write WxH, from 1x1 to 16384x16384.");
    }
    if (!c.stereo.empty()) s.view.stereo = *stereo_of(c.stereo);
    if (!c.camera.empty()) {
        std::vector<std::string> names;
        bool found = false;
        for (const Camera& camera : s.open.project.cameras) {
            names.push_back(camera.name);
            if (camera.name == c.camera) {
                s.view.camera = camera;
                found = true;
            }
        }
        if (!found)
            return fail("there is no camera named \"" + c.camera + "\"", c.scene,
                        names.empty() ? "The scene has no named cameras." : "It has: " + joined(names) + ".");
    }
    if (c.eye.empty() != c.aim.empty()) return fail("--eye and --aim go together", "--eye");
    if (!c.eye.empty()) {
        auto eye = triple(c.eye, "--eye"), aim = triple(c.aim, "--aim");
        if (!eye) return tl::unexpected(eye.error());
        if (!aim) return tl::unexpected(aim.error());
        if (glm::length(*aim - *eye) < 1e-6f) return fail("--eye and --aim are the same point", "--aim");
        s.view.camera.eye = *eye;
        s.view.camera.aim = *aim;
    }
    if (c.fov != 0) {
        if (!(c.fov > 0.5 && c.fov < 175))
            return fail("the field of view must lie between 0.5 and 175 degrees", "--fov");
        s.view.camera.fovY = glm::radians(static_cast<float>(c.fov));
    }
    if (c.seconds_given) {
        const double before = s.view.seconds;
        s.view.seconds = c.seconds;
        if (c.eye.empty() && c.camera.empty())
            s.view.camera = followed(scene_of(s.open), s.view.camera, before, c.seconds);
    }
    s.open.project.view.seconds = s.view.seconds; // of the scene as it stands
    if (!c.camera.empty() && c.eye.empty()) {
        const Scene scene = scene_of(s.open);
        const auto& cameras = s.open.asset->cameras;
        for (std::size_t k = 0; k < cameras.size(); ++k)
            if (s.view.camera == cameras[k]) s.view.camera = camera_at(scene, k, s.view.seconds);
    }
    if (auto ok = apply_objects(s, c); !ok) return tl::unexpected(ok.error());
    if (const Starter starter = starter_of(s.open); c.starter && !starter.empty()) {
        if (auto ok = apply_starter(s, starter, c); !ok) return tl::unexpected(ok.error());
        std::fprintf(stderr, "mirolux-cli: added %s\n", words_of(starter).c_str());
    } else if (!starter.empty())
        std::fprintf(stderr, "mirolux-cli: the scene is taken as it is; --starter would add %s\n",
                     words_of(starter).c_str());
    return s;
}

Result<Setup> other_setup(const Subject& subject, const Common& c, const std::vector<std::string>& against,
                          const std::string& againstSetup) {
    Setup b = subject.setup;
    if (!againstSetup.empty()) {
        Common other = c;
        other.setupName = againstSetup;
        other.sets.clear();
        auto o = subject_of(other);
        if (!o) return tl::unexpected(o.error());
        b = o->setup;
    }
    if (auto ok = apply_sets(b, against); !ok) return tl::unexpected(ok.error());
    return b;
}

int deliver(const Common& c, const std::string& text, const nlohmann::json& json) {
    if (c.json == "-") {
        if (std::printf("%s\n", json_text(json, 2).c_str()) < 0 || std::fflush(stdout) != 0)
            return complain({"standard output cannot be written", "--json -", "Free space, or name a file."}, badInput);
        return done;
    }
    if (!c.json.empty())
        if (auto ok = write_file_atomically(c.json, json_text(json, 2) + "\n"); !ok)
            return complain(ok.error(), badInput);
    if (std::fputs(text.c_str(), stdout) < 0 || std::fflush(stdout) != 0)
        return complain({"standard output cannot be written", "", "Free space, or write elsewhere."}, badInput);
    return done;
}

Result<void> can_write(const std::vector<std::string>& files) {
    for (const std::string& file : files) {
        if (file.empty() || file == "-") continue;
        // The same steps as a real write, with a page of content, so that a full disk shows.
        const std::string trial = file + ".trial";
        auto ok = write_file_atomically(trial, std::string(4096, ' '));
        std::error_code ec;
        std::filesystem::remove(trial, ec);
        if (!ok) return fail(ok.error().what, file, "Name a place that can be written; nothing was measured yet.");
    }
    return {};
}

WorkerOptions worker_options(const Common& c) {
    WorkerOptions o;
    o.software = c.device == "software";
    o.shaderFolder = c.shaders;
    o.watchdogSeconds = c.watchdogSeconds;
    o.memoryLimit = static_cast<std::size_t>(c.memoryLimitMiB * (1 << 20));
    return o;
}

RenderOptions still_options(const Common& c, const Subject& s) {
    RenderOptions o;
    o.fencedSamples = 0;
    o.frames = c.frames;
    const Project& p = s.open.project;
    if (!p.targets.empty())
        o.framesPerSecond =
            1000.0 / p.targets[std::min(static_cast<std::size_t>(p.target), p.targets.size() - 1)].frameMs;
    return o;
}

Result<Subject> solid_subject_of(const Common& c, bool decodeImages) {
    auto s = subject_of(c, decodeImages);
    if (s && scene_of(s->open).stage() != Stage::solid)
        return fail(std::string("this command knows Solid scenes only, and this one is ") +
                        (s->open.project.flat ? "Flat" : "of Blocks"),
                    c.scene, "info, plan, render, measure, pixel, ledger and walk work on it.");
    return s;
}

} // namespace mirolux::cli
