#include "core/io/wire.h"
#include "core/io/from_word.h"
#include "core/plan/anatomy.h"

namespace mirolux {

Json to_json(const ObjectEdit& e) {
    const ObjectEdit none;
    Json j = {{"id", e.id}, {"name", e.name}};
    if (e.translation != none.translation) j["translation"] = to_array(e.translation);
    if (e.rotation != none.rotation)
        j["rotation"] = {e.rotation.x, e.rotation.y, e.rotation.z, e.rotation.w}; // glTF's order
    if (e.scale != none.scale) j["scale"] = to_array(e.scale);
    if (e.hidden) j["hidden"] = true;
    if (e.casts != Casting::yes) j["casts"] = word(e.casts);
    if (!e.receives) j["receives"] = false;
    if (e.proxy) j["proxy"] = true;
    if (e.standing != Standing::found) j["standing"] = word(e.standing);
    if (e.mapDetail != 1) j["mapDetail"] = e.mapDetail;
    return j;
}

ObjectEdit object_edit_from_json(const JsonCursor& j) {
    ObjectEdit e;
    e.id = j["id"].text();
    e.name = j.text("name", e.id);
    e.translation = j.vector<3>("translation", e.translation);
    e.scale = j.vector<3>("scale", e.scale);
    for (int k = 0; k < 3; ++k)
        if (!(e.scale[k] >= 1e-4f && e.scale[k] <= 1e4f)) j["scale"].complain("must lie between 0.0001 and 10000");
    if (j.has("rotation")) {
        const auto r = j["rotation"].vector<4>();
        const float length = glm::length(r);
        if (!(std::abs(length - 1.0f) < 1e-3f)) j["rotation"].complain("is not a unit quaternion");
        e.rotation = {r.w, r.x, r.y, r.z};
        if (std::abs(length - 1.0f) > 1e-5f) e.rotation /= length;
    }
    e.hidden = j.flag("hidden", false);
    if (j.has("casts")) e.casts = from_word(j["casts"], all_castings);
    e.receives = j.flag("receives", true);
    e.proxy = j.flag("proxy", false);
    if (j.has("standing")) e.standing = from_word(j["standing"], all_standings);
    e.mapDetail = static_cast<float>(j.number("mapDetail", 1, 0, most_map_detail));
    if (e.mapDetail > 0 && e.mapDetail < least_map_detail) j["mapDetail"].complain("must be 0 or at least 0.0625");
    return e;
}

Json to_json(const Camera& c) {
    Json j = {{"name", c.name}, {"eye", to_array(c.eye)}, {"aim", to_array(c.aim)}, {"fovY", c.fovY}, {"near", c.near}};
    if (c.span > 0) j["span"] = c.span;
    return j;
}

Camera camera_from_json(const JsonCursor& j) {
    Camera c;
    c.name = j.text("name", "");
    c.eye = j["eye"].vector<3>();
    c.aim = j["aim"].vector<3>();
    if (glm::length(c.aim - c.eye) < 1e-6f) j["aim"].complain("is the same point as eye");
    c.fovY = static_cast<float>(j.number("fovY", c.fovY, 0.01, 3.1));
    c.near = static_cast<float>(j.number("near", c.near, 1e-4, 1e4));
    c.span = static_cast<float>(j.number("span", 0, 0, 1e6));
    return c;
}

Json to_json(const View& v) {
    Json j = {{"camera", to_json(v.camera)}, {"width", v.width},         {"height", v.height},
              {"seconds", v.seconds},        {"stereo", word(v.stereo)}, {"eyeDistance", v.eyeDistance}};
    if (v.wholeWidth > 0 && v.wholeHeight > 0) j["whole"] = {v.wholeWidth, v.wholeHeight};
    return j;
}

View view_from_json(const JsonCursor& j) {
    View v;
    v.camera = camera_from_json(j["camera"]);
    v.width = static_cast<int>(j["width"].whole(16384));
    v.height = static_cast<int>(j["height"].whole(16384));
    if (v.width < 1 || v.height < 1) j.complain("picture size must be at least 1x1");
    v.seconds = j.number("seconds", 0.0);
    const auto stereo = stereo_of(j.text("stereo", "off"));
    if (!stereo) j["stereo"].complain("must be off, two-passes or one-pass");
    v.stereo = *stereo;
    v.eyeDistance = static_cast<float>(j.number("eyeDistance", v.eyeDistance, 0.0, 1.0));
    if (j.has("whole")) {
        v.wholeWidth = static_cast<int>(j.list("whole").at(0).whole(16384));
        v.wholeHeight = static_cast<int>(j.list("whole").at(1).whole(16384));
    }
    return v;
}

Setup setup_from_json(const JsonCursor& j) {
    Setup setup;
    if (!j.json().is_object()) j.complain("must be an object of settings");
    for (const auto& [key, value] : j.json().items())
        if (key == "stage")
            setup.stage = from_word(j["stage"], all_stages);
        else if (auto done = setup.set_json(key, value); !done)
            throw ReadFailure{key + " " + done.error().what, j.pointer() + "/" + key, done.error().remedy};
    return setup;
}

static Json to_json(const TargetRead& t) {
    return {{"target", t.target}, {"after", t.after}, {"layer", t.layer}, {"mip", t.mip}, {"stencil", t.stencil}};
}

static TargetRead target_read_from_json(const JsonCursor& j) {
    return {j["target"].text(), j.text("after", ""), static_cast<int>(j.whole("layer", 0, 2048)),
            static_cast<int>(j.whole("mip", 0, 16)), j.flag("stencil", false)};
}

Json to_json(const RenderOptions& o) {
    Json targets = Json::array();
    for (const TargetRead& t : o.targets)
        targets.push_back(to_json(t));
    return {{"picture", o.picture},
            {"bothEyes", o.bothEyes},
            {"wholeQueries", o.wholeQueries},
            {"show", o.show},
            {"light", o.light},
            {"frames", o.frames},
            {"framesPerSecond", o.framesPerSecond},
            {"floatLayers", o.floatLayers},
            {"targets", targets},
            {"writes", o.writes},
            {"thumbnails", o.thumbnails},
            {"thumbnailWidth", o.thumbnailWidth},
            {"thumbnailHeight", o.thumbnailHeight},
            {"fencedSamples", o.fencedSamples},
            {"wholeSamples", o.wholeSamples},
            {"gpuClock", o.gpuClock},
            {"lightLists", o.lightLists},
            {"count", o.count},
            {"ledger", o.ledger},
            {"injectedWork", o.injectedWork},
            {"gatherMs", o.gatherMs},
            {"adapted", o.adapted},
            {"seen", o.seen},
            {"probe", o.probe ? Json{o.probe->x, o.probe->y} : Json()}};
}

RenderOptions options_from_json(const JsonCursor& j) {
    RenderOptions o;
    auto texts = [&](const char* key) {
        std::vector<std::string> out;
        const JsonCursor list = j.list(key);
        for (std::size_t i = 0; i < list.size(); ++i)
            out.push_back(list.at(i).text());
        return out;
    };
    o.bothEyes = j.flag("bothEyes", false);
    o.wholeQueries = j.flag("wholeQueries", false);
    o.picture = j.flag("picture", o.picture);
    o.show = j.text("show", o.show);
    o.light = static_cast<int>(j.number("light", -1, -1, 0x7FFFFFFF));
    o.frames = static_cast<int>(j.whole("frames", 0, 100000));
    o.framesPerSecond = j.number("framesPerSecond", 60, 0.1, 10000);
    o.floatLayers = texts("floatLayers");
    const JsonCursor targets = j.list("targets");
    for (std::size_t i = 0; i < targets.size(); ++i)
        o.targets.push_back(target_read_from_json(targets.at(i)));
    o.writes = j.flag("writes", false);
    o.thumbnails = texts("thumbnails");
    o.thumbnailWidth = static_cast<int>(j.whole("thumbnailWidth", 112, 4096));
    o.thumbnailHeight = static_cast<int>(j.whole("thumbnailHeight", 63, 4096));
    o.fencedSamples = static_cast<int>(j.whole("fencedSamples", 1, 100000));
    o.wholeSamples = static_cast<int>(j.whole("wholeSamples", 0, 100000));
    o.gpuClock = j.flag("gpuClock", false);
    o.lightLists = j.flag("lightLists", false);
    o.count = j.flag("count", false);
    o.ledger = j.flag("ledger", false);
    o.injectedWork = static_cast<int>(j.whole("injectedWork", 0, 1 << 30));
    o.gatherMs = j.number("gatherMs", 0, 0, 1e6);
    o.adapted = j.flag("adapted", false);
    o.seen = j.flag("seen", false);
    if (j.has("probe") && !j["probe"].json().is_null())
        o.probe = glm::ivec2(j["probe"].at(0).whole(16384), j["probe"].at(1).whole(16384));
    return o;
}

Json to_json(const Work& w) {
    Json out = Json::object();
    for (const Counter& c : all_counters())
        out[c.name] = 0;
    for (const auto& [name, value] : w.counts)
        out[name] = value;
    return out;
}

Work work_from_json(const JsonCursor& j) {
    Work w;
    if (!j.json().is_object()) j.complain("must be an object of counters");
    for (const auto& [name, value] : j.json().items())
        w.set(name, j.whole(name.c_str(), 0, std::numeric_limits<std::int64_t>::max()));
    return w;
}

Json to_json(const DeviceInfo& d) {
    return {{"renderer", d.renderer},
            {"vendor", d.vendor},
            {"version", d.version},
            {"build", d.build},
            {"clock",
             {{"gpuAccepted", d.clock.gpuAccepted},
              {"fencedSmallMs", d.clock.fencedSmallMs},
              {"fencedLargeMs", d.clock.fencedLargeMs},
              {"gpuSmallMs", d.clock.gpuSmallMs},
              {"gpuLargeMs", d.clock.gpuLargeMs},
              {"verdict", d.clock.verdict}}}};
}

DeviceInfo device_from_json(const JsonCursor& j) {
    DeviceInfo d;
    d.renderer = j.text("renderer", "");
    d.vendor = j.text("vendor", "");
    d.version = j.text("version", "");
    d.build = j.text("build", "");
    const JsonCursor c = j["clock"];
    d.clock = {c.flag("gpuAccepted", false), c.number("fencedSmallMs", 0), c.number("fencedLargeMs", 0),
               c.number("gpuSmallMs", 0),    c.number("gpuLargeMs", 0),    c.text("verdict", "")};
    return d;
}

static Json to_json(const PlannedResource& r) {
    const FormatInfo& format = info_of(r.spec.format);
    const std::string note = r.spec.formatNote.empty() ? "" : " " + r.spec.formatNote;
    return {{"name", r.spec.name},
            {"format", format.word + note},
            {"width", r.width},
            {"height", r.height},
            {"bytesPerPixel", r.spec.entries > 0 ? 0 : format.bytes},
            {"layers", r.layers},
            {"mips", r.spec.mips},
            {"life", r.spec.life == Life::history ? "history"
                     : r.spec.life == Life::scene ? "scene"
                                                  : "frame"},
            {"kept", r.spec.kept},
            {"first", r.first},
            {"last", r.last},
            {"memory", r.allocation},
            {"bytes", r.bytes}};
}

Json to_json(const FramePlan& plan) {
    Json passes = Json::array(), targets = Json::array();
    for (const PlannedPass& p : plan.passes) {
        Json writes = Json::array();
        for (const std::string& name : p.writes)
            writes.push_back(to_json(*plan.resource(name)));
        passes.push_back(
            {{"name", p.name},
             {"family", p.family},
             {"technique", p.technique ? p.technique->name : ""},
             {"what", p.what},
             {"reads", p.reads},
             {"writes", writes},
             {"settings", p.settings},
             {"bothEyes", p.bothEyes},
             {"expected", {{"draws", p.expected.at("draws")}, {"triangles", p.expected.at("triangles")}}}});
    }
    for (const PlannedResource& r : plan.resources) {
        Json target = to_json(r);
        const Uses uses = uses_of(plan, r);
        target["readers"] = uses.readers;
        target["writers"] = uses.writers;
        targets.push_back(std::move(target));
    }
    // Peak: what must be held at once, since memory is shared only between targets of one format and size.
    return {{"passes", passes},
            {"targets", targets},
            {"memory", {{"sum", plan.bytesSum}, {"peak", plan.bytesHeld}, {"fullestPass", plan.bytesPeak}}},
            {"notes", plan.notes},
            {"droppedLights", plan.droppedLights},
            {"droppedObjects", plan.droppedObjects},
            {"lightsInScene", plan.lightsInScene},
            {"lightsInView", plan.lightsInView}};
}

static Json to_json(const PixelProbe& p) {
    Json samples = Json::array();
    for (const SurfaceSample& s : p.samples) {
        samples.push_back({{"position", to_array(s.position)},
                           {"normal", to_array(s.normal)},
                           {"baseColor", to_array(s.baseColor)},
                           {"emissive", to_array(s.emissive)},
                           {"ambient", to_array(s.ambient)},
                           {"mirrored", to_array(s.mirrored)},
                           {"baked", to_array(s.baked)},
                           {"mapped", s.mapped},
                           {"depth", s.depth},
                           {"alpha", s.alpha},
                           {"metallic", s.metallic},
                           {"roughness", s.roughness},
                           {"unlit", s.unlit},
                           {"draw", s.draw},
                           {"triangle", s.triangle}});
        if (!s.lightFactors.empty()) samples.back()["lightFactors"] = s.lightFactors;
        for (const glm::vec2& through : s.lightThrough)
            samples.back()["lightThrough"].push_back(to_array(through));
        Json& sample = samples.back(); // what most surfaces have nothing of is left out
        if (s.reflected != glm::vec3(0.0f)) sample["reflected"] = to_array(s.reflected);
        if (s.probes != glm::vec3(0.0f)) sample["ofProbes"] = to_array(s.probes);
        if (s.thickness != 0) sample["thickness"] = s.thickness;
        if (s.answer != 0) sample["answer"] = s.answer;
        if (s.bakedOcclusion != 1) sample["bakedOcclusion"] = s.bakedOcclusion;
        if (s.screenOcclusion != 1) sample["screenOcclusion"] = s.screenOcclusion;
        if (s.air.w >= 0) sample["air"] = {s.air.x, s.air.y, s.air.z, s.air.w};
    }
    Json out = {{"x", p.pixel.x}, {"y", p.pixel.y}, {"radiance", to_array(p.radiance)}, {"samples", samples}};
    if (p.airBeforeSky.w >= 0)
        out["airBeforeSky"] = {p.airBeforeSky.x, p.airBeforeSky.y, p.airBeforeSky.z, p.airBeforeSky.w};
    if (p.spread != glm::vec3(0.0f)) out["spread"] = to_array(p.spread);
    if (p.shafts != glm::vec3(0.0f)) out["shafts"] = to_array(p.shafts);
    out["shown"] = {p.shown.x, p.shown.y};
    for (const PixelStage& s : p.stages)
        out["stages"].push_back({{"name", s.name}, {"value", to_array(s.value)}});
    if (!p.airByLight.empty()) {
        out["airByLight"] = Json::array();
        for (const glm::vec3& light : p.airByLight)
            out["airByLight"].push_back(to_array(light));
    }
    return out;
}

static PixelProbe pixel_probe_from_json(const JsonCursor& j) {
    PixelProbe p;
    p.pixel = {j["x"].whole(16384), j["y"].whole(16384)};
    p.radiance = j["radiance"].vector<3>();
    const JsonCursor list = j.list("samples");
    for (std::size_t i = 0; i < list.size(); ++i) {
        const JsonCursor s = list.at(i);
        SurfaceSample out;
        out.position = s["position"].vector<3>();
        out.normal = s["normal"].vector<3>();
        out.baseColor = s["baseColor"].vector<3>();
        out.emissive = s["emissive"].vector<3>();
        out.ambient = s["ambient"].vector<3>();
        out.mirrored = s["mirrored"].vector<3>();
        out.baked = s["baked"].vector<3>();
        out.mapped = s.flag("mapped", false);
        out.depth = static_cast<float>(s["depth"].number());
        out.alpha = static_cast<float>(s["alpha"].number());
        out.metallic = static_cast<float>(s["metallic"].number());
        out.roughness = static_cast<float>(s["roughness"].number());
        out.unlit = s.flag("unlit", false);
        out.draw = static_cast<std::uint32_t>(s["draw"].whole(~0u));
        out.triangle = static_cast<std::uint32_t>(s["triangle"].whole(~0u));
        const JsonCursor factors = s.list("lightFactors"), through = s.list("lightThrough");
        for (std::size_t k = 0; k < factors.size(); ++k)
            out.lightFactors.push_back(static_cast<float>(factors.at(k).number()));
        for (std::size_t k = 0; k < through.size(); ++k)
            out.lightThrough.push_back(through.at(k).vector<2>());
        out.thickness = static_cast<float>(s.number("thickness", 0, 0));
        out.reflected = s.vector<3>("reflected", out.reflected);
        out.probes = s.vector<3>("ofProbes", out.probes);
        out.answer = static_cast<int>(s.number("answer", 0, -64, 64));
        out.bakedOcclusion = static_cast<float>(s.number("bakedOcclusion", 1, 0, 1));
        out.screenOcclusion = static_cast<float>(s.number("screenOcclusion", 1, 0, 1));
        if (s.has("air")) out.air = s["air"].vector<4>();
        p.samples.push_back(out);
    }
    if (j.has("airBeforeSky")) p.airBeforeSky = j["airBeforeSky"].vector<4>();
    p.spread = j.vector<3>("spread", p.spread);
    p.shafts = j.vector<3>("shafts", p.shafts);
    if (j.has("shown")) p.shown = {j["shown"].at(0).whole(16384), j["shown"].at(1).whole(16384)};
    const JsonCursor stages = j.list("stages");
    for (std::size_t i = 0; i < stages.size(); ++i)
        p.stages.push_back({stages.at(i)["name"].text(), stages.at(i)["value"].vector<3>()});
    const JsonCursor lights = j.list("airByLight");
    for (std::size_t i = 0; i < lights.size(); ++i)
        p.airByLight.push_back(lights.at(i).vector<3>());
    return p;
}

Json to_json(const FrameRecord& r) {
    Json passes = Json::array();
    for (const PassRecord& p : r.passes)
        passes.push_back(
            {{"name", p.name}, {"family", p.family}, {"ms", p.ms}, {"work", to_json(p.work)}, {"counted", p.counted}});
    Json shares = Json::array(), probe;
    for (const LightShare& s : r.ledger)
        shares.push_back({s.light, s.evaluations, s.luminance, s.shadowTaps, s.shadowMs, s.airCells, s.airLuminance});
    Json cheap = Json::array();
    for (const CheapShare& s : r.cheap)
        cheap.push_back({s.light, s.fragments, s.ms, s.luminance});
    Json objects = Json::array();
    for (const ObjectShare& s : r.objects)
        objects.push_back({s.object, s.fragments, s.evaluations});
    Json drawn = Json::array();
    for (std::size_t o = 0; o < r.drawn.size(); ++o)
        if (r.drawn[o]) drawn.push_back(o);
    if (r.probe) probe = to_json(*r.probe);
    return {{"passes", passes},
            {"wholeMs", r.wholeMs},
            {"answerMs", r.answerMs},
            {"width", r.width},
            {"height", r.height},
            {"clock", r.clock},
            {"instrumented", r.instrumented},
            {"droppedLights", r.droppedLights},
            {"droppedObjects", r.droppedObjects},
            {"lightsInScene", r.lightsInScene},
            {"lightsInView", r.lightsInView},
            {"lightsFaded", r.lightsFaded},
            {"told", r.told},
            {"ledger", shares},
            {"cheap", cheap},
            {"objects", objects},
            {"seenPixels", r.seenPixels},
            {"drawn", drawn},
            {"probe", probe}};
}

FrameRecord record_from_json(const JsonCursor& j) {
    FrameRecord r;
    auto numbers = [](const JsonCursor& list) {
        std::vector<double> out;
        for (std::size_t i = 0; i < list.size(); ++i)
            out.push_back(list.at(i).number());
        return out;
    };
    const JsonCursor passes = j.list("passes");
    for (std::size_t i = 0; i < passes.size(); ++i) {
        const JsonCursor p = passes.at(i), w = p["work"];
        r.passes.push_back(
            {p["name"].text(), p["family"].text(), numbers(p.list("ms")), work_from_json(w), p.flag("counted", false)});
    }
    r.wholeMs = numbers(j.list("wholeMs"));
    r.answerMs = j.number("answerMs", 0);
    r.width = static_cast<int>(j.whole("width", 0));
    r.height = static_cast<int>(j.whole("height", 0));
    r.clock = j.text("clock", "");
    r.instrumented = j.flag("instrumented", false);
    r.droppedLights = j.whole("droppedLights", 0, ~0ull);
    r.droppedObjects = static_cast<int>(j.whole("droppedObjects", 0));
    r.lightsInScene = static_cast<int>(j.whole("lightsInScene", 0));
    r.lightsInView = static_cast<int>(j.whole("lightsInView", 0));
    r.lightsFaded = static_cast<int>(j.whole("lightsFaded", 0));
    if (j.has("told"))
        for (const auto& [name, values] : j["told"].json().items())
            r.told[name] = numbers(j["told"].list(name.c_str()));
    const JsonCursor shares = j.list("ledger");
    for (std::size_t i = 0; i < shares.size(); ++i)
        r.ledger.push_back({static_cast<int>(shares.at(i).at(0).whole(0x7FFFFFFF)), shares.at(i).at(1).whole(~0ull),
                            shares.at(i).at(2).number(), shares.at(i).at(3).whole(~0ull), shares.at(i).at(4).number(),
                            shares.at(i).at(5).whole(~0ull), shares.at(i).at(6).number()});
    const JsonCursor cheap = j.list("cheap");
    for (std::size_t i = 0; i < cheap.size(); ++i)
        r.cheap.push_back({static_cast<int>(cheap.at(i).at(0).whole(0x7FFFFFFF)), cheap.at(i).at(1).whole(~0ull),
                           cheap.at(i).at(2).number(), cheap.at(i).at(3).number()});
    const JsonCursor objects = j.list("objects");
    for (std::size_t i = 0; i < objects.size(); ++i)
        r.objects.push_back({static_cast<int>(objects.at(i).at(0).whole(0x7FFFFFFF)), objects.at(i).at(1).whole(~0ull),
                             objects.at(i).at(2).whole(~0ull)});
    const JsonCursor seen = j.list("seenPixels"), drawn = j.list("drawn");
    for (std::size_t i = 0; i < seen.size(); ++i)
        r.seenPixels.push_back(static_cast<std::uint32_t>(seen.at(i).whole(0xFFFFFFFF)));
    r.drawn.resize(r.seenPixels.size(), false);
    for (std::size_t i = 0; i < drawn.size(); ++i)
        if (const std::uint64_t o = drawn.at(i).whole(~0ull); o < r.drawn.size()) r.drawn[o] = true;
    if (j.has("probe") && !j["probe"].json().is_null()) r.probe = pixel_probe_from_json(j["probe"]);
    return r;
}

Json light_patch(const std::vector<Light>& from, const std::vector<Light>& to) {
    Json set = Json::array();
    for (std::size_t i = 0; i < to.size(); ++i)
        if (i >= from.size() || !(from[i] == to[i])) set.push_back({{"at", i}, {"light", to_json(to[i])}});
    return {{"count", to.size()}, {"set", set}};
}

void apply_light_patch(std::vector<Light>& lights, const JsonCursor& patch) {
    lights.resize(patch["count"].whole(1 << 20));
    const JsonCursor set = patch.list("set");
    for (std::size_t i = 0; i < set.size(); ++i) {
        const auto at = set.at(i)["at"].whole(1 << 20);
        if (at >= lights.size()) set.at(i)["at"].complain("is beyond the list");
        lights[at] = light_from_json(set.at(i)["light"]);
    }
}

Json object_patch(const std::vector<ObjectEdit>& from, const std::vector<ObjectEdit>& to) {
    const EditChanges changes = changes_between(from, to);
    if (changes.set.empty() && changes.gone.empty()) return {};
    Json set = Json::array(), gone = Json::array();
    for (const ObjectEdit* e : changes.set)
        set.push_back(to_json(*e));
    for (const ObjectEdit* e : changes.gone)
        gone.push_back(e->id);
    return {{"set", set}, {"gone", gone}};
}

void apply_object_patch(std::vector<ObjectEdit>& edits, const JsonCursor& patch) {
    std::vector<ObjectEdit> changed;
    const JsonCursor set = patch.list("set"), gone = patch.list("gone");
    for (std::size_t i = 0; i < set.size(); ++i)
        changed.push_back(object_edit_from_json(set.at(i)));
    for (std::size_t i = 0; i < gone.size(); ++i)
        changed.push_back({gone.at(i).text(), {}}); // idle: taken out
    take_edits(edits, changed);
}

Json message_from_bytes(const std::uint8_t* data, std::size_t bytes) {
    try { // it throws for sizes beyond any memory, whatever it is asked
        Json json = Json::from_cbor(data, data + bytes, true, false);
        if (!json.is_discarded() && json.is_object()) return json;
    } catch (const Json::exception&) {
    }
    throw ReadFailure{"a message could not be read", "", ""};
}

} // namespace mirolux
