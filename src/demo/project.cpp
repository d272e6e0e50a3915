#include "demo/project.h"
#include "core/light/cheap_light.h"
#include "core/light/tone.h"
#include "demo/materials.h"
#include "demo/surroundings.h"
#include <cstdio>

namespace mirolux::demo {

using glm::vec3;

/// The hall, a nested box between its glass screens, and the workshop's four rooms.
static void add_probes(Project& p) {
    const auto add = [&](const char* name, vec3 place, vec3 center, vec3 size, float blend) {
        Probe probe;
        probe.id = static_cast<int>(p.probes.size());
        probe.name = name;
        probe.position = place;
        probe.center = center;
        probe.size = size;
        probe.blend = blend;
        probe.recapture = Recapture::changed;
        p.probes.push_back(probe);
    };
    add("hall", {-2, 2.3f, 2.0f}, {-2, 2.45f, 6}, {24, 4.7f, 14}, 0.5f);
    add("hall, between the screens", {-2, 2.0f, 6}, {-2, 2.3f, 6}, {16.5f, 4.4f, 4}, 0.4f);
    for (int room = 0; room < 4; ++room) {
        const vec3 middle(-16.5f + 7.0f * static_cast<float>(room), 2.2f, -33);
        add(("workshop room " + std::to_string(room + 1)).c_str(), middle, middle + vec3(0, 0.02f, 0), {7, 4.4f, 9.2f},
            0.3f);
    }
}

/// Of the workshop: between its rooms, and their fronts.
static void add_doors(Project& p) {
    const auto add = [&](const std::string& name, vec3 center, glm::vec2 size, float turn, const std::string& leaf,
                         float travel) {
        Door d;
        d.id = static_cast<int>(p.doors.size());
        d.name = name;
        d.center = center;
        d.size = size;
        d.turn = glm::radians(turn);
        d.object = leaf;
        d.travel = travel;
        p.doors.push_back(d);
    };
    // The slats above each have chinks: they are part of the opening.
    for (int i = 0; i < 3; ++i)
        add("roller door " + std::to_string(i + 1), {-13.0f + 7.0f * static_cast<float>(i), 1.6f, -33}, {3.0f, 3.2f},
            90, numbered("roller door", i + 1), 3.35f);
    for (int i = 0; i < 4; ++i)
        add("gate " + std::to_string(i + 1), {-16.5f + 7.0f * static_cast<float>(i), 2.2f, -28.5f}, {6.5f, 4.4f}, 0,
            numbered("workshop gate", i + 1), 4.45f);
}

/// From the yard through the four rooms and out again.
static Walk workshop_walk() {
    Walk walk;
    walk.name = "through the workshop";
    walk.fovY = 1.0f;
    walk.keys = {{0, {-24, 1.7f, -22}, {-17, 1.5f, -30}},       {5, {-17, 1.7f, -27}, {-16.5f, 1.5f, -33}},
                 {8, {-16.5f, 1.7f, -32.4f}, {-9, 1.5f, -33}},  {12, {-12.6f, 1.7f, -33}, {-6, 1.5f, -33}},
                 {17, {-6, 1.7f, -33}, {1, 1.5f, -33}},         {22, {1, 1.7f, -33}, {5, 1.5f, -32}},
                 {25, {4.4f, 1.7f, -31.8f}, {4.6f, 1.6f, -25}}, {28, {4.5f, 1.7f, -27}, {6, 1.7f, -18}},
                 {32, {7, 1.7f, -20}, {14, 1.7f, -8}}};
    return walk;
}

Project make_project(const std::vector<Motion>& motions) {
    Project p;
    p.name = "Kestrel Quay";
    p.motions = motions;
    p.sky = {{0.105f, 0.098f, 0.120f}, {0.008f, 0.015f, 0.040f}};
    Walk walk;
    walk.name = "queue to pier head";
    walk.fovY = 1.0f;
    walk.keys = {{0, {25, 1.7f, -34}, {24, 1.4f, -20}},  {6, {22, 1.7f, -14}, {20, 1.5f, 0}},
                 {11, {17.5f, 1.7f, 1}, {10, 1.6f, 5}},  {15, {11.2f, 1.75f, 5.5f}, {0, 1.6f, 6}},
                 {20, {2, 1.75f, 6.5f}, {-3, 1.6f, 9}},  {24, {-1.9f, 1.75f, 11}, {0, 1.5f, 20}},
                 {29, {1.0f, 1.75f, 19}, {2, 1.6f, 32}}, {38, {2, 1.8f, 48}, {5, 2.0f, 62}},
                 {46, {2, 1.8f, 70}, {2, 3.5f, 90}},     {52, {2, 1.8f, 86}, {9, 2.5f, 64}}};
    p.walks = {walk, workshop_walk()};
    add_doors(p);
    p.targets = standard_targets();
    p.targetByDevice = true;
    auto choose = [](Setup& setup, const char* key, const Value& value) {
        if (auto done = setup.set(key, value); !done) std::fprintf(stderr, "%s\n", to_text(done.error()).c_str());
    };
    // A night: what the moon's sky leaves.
    choose(p.setup, "ambient.constant", vec3(0.05f, 0.06f, 0.08f));
    choose(p.setup, "ambient.top", vec3(0.045f, 0.062f, 0.100f));
    choose(p.setup, "ambient.side", vec3(0.040f, 0.046f, 0.060f));
    choose(p.setup, "ambient.bottom", vec3(0.018f, 0.016f, 0.014f));
    choose(p.setup, "shadow.maps", true);
    choose(p.setup, "shadow.casters", 16);
    p.setups = {{"additive", p.setup},
                {"reference", p.setup},
                {"noon", p.setup},
                {"dusk", p.setup},
                {"moonlight", p.setup},
                {"sea fog", p.setup},
                {"sea fog by beams", p.setup},
                {"dusk by a picture", p.setup},
                {"cheap lights", p.setup},
                {"overcast by a picture", p.setup},
                {"wet quay", p.setup},
                {"hall by probes", p.setup},
                {"clear day by a picture", p.setup},
                {"waxen figurehead", p.setup},
                {"eye and lens", p.setup}};
    // Lamps mirrored in the ground, creases darkened.
    Setup& wet = p.setups[10].second;
    choose(wet, "path.kind", std::string("tiled-deferred"));
    choose(wet, "ambient.kind", std::string("environment"));
    choose(wet, "occlusion.kind", std::string("horizon"));
    choose(wet, "occlusion.scale", std::string("half"));
    choose(wet, "reflection.kind", std::string("screen"));
    // What an eye and a lens add: exposure by a meter that keeps the night dark, and lamps that glow.
    Setup& lens = p.setups[14].second;
    lens = wet;
    choose(lens, "exposure.kind", std::string("metered"));
    choose(lens, "exposure.meter", std::string("centre"));
    choose(lens, "exposure.inDark", -2.4);
    choose(lens, "bloom.kind", std::string("chain"));
    choose(lens, "bloom.tame", false);
    choose(lens, "bloom.share", 0.2);
    choose(lens, "bloom.radius", 16.0);
    choose(lens, "bloom.spread", 0.85);
    choose(lens, "output.dither", std::string("blue"));
    // Indoors, light and mirror images come from what was captured there.
    Setup& indoors = p.setups[11].second;
    indoors = wet;
    choose(indoors, "probe.kind", std::string("captured"));
    choose(indoors, "exposure.ev100", indoors.number("exposure.ev100") + 0.6);
    add_probes(p);
    // Its lamp stands behind it: wax lets light in, and through where it is thin.
    Setup& waxen = p.setups[13].second;
    waxen = indoors;
    choose(waxen, "shadow.maps", true);
    choose(waxen, "subsurface.kind", std::string("blur"));
    choose(waxen, "subsurface.thickness", std::string("map"));
    Setup& clear = p.setups[12].second; // whose sun is taken out of the picture and casts shadows
    choose(clear, "ambient.kind", std::string("environment"));
    choose(clear, "environment.source", std::string("file"));
    choose(clear, "environment.file", std::string(clear_day_file));
    choose(clear, "environment.sun", std::string("taken"));
    choose(clear, "exposure.ev100", 11.3);
    Setup& overcast = p.setups[9].second;
    choose(overcast, "ambient.kind", std::string("environment"));
    choose(overcast, "environment.source", std::string("file"));
    choose(overcast, "environment.file", std::string(overcast_file));
    choose(overcast, "environment.diffuse", std::string("cube"));
    choose(overcast, "exposure.ev100", 12.2);
    Setup& picture = p.setups[7].second;
    choose(picture, "sky.kind", std::string("file"));
    choose(picture, "sky.file", std::string(sky_file_name));
    choose(picture, "ambient.kind", std::string("environment"));
    choose(picture, "exposure.ev100", 10.6);
    Setup& cheap = p.setups[8].second;
    choose(cheap, "solidLights.kind", std::string("stencil"));
    choose(cheap, "viewLights.kind", std::string("ramp"));
    choose(cheap, "cheapLights.instead", true);
    choose(p.setups[0].second, "path.kind", std::string("additive"));
    // Under the air itself: by day, at dusk, and in a clear night.
    struct Hour {
        double elevation, azimuth, ev100;
        const char* preset;
    };
    const Hour hours[] = {{42, 205, 14.6, "clear"}, {1.6, 140, 10.6, "haze"}, {-28, 20, -2.2, "clear"}};
    for (std::size_t i = 0; i < 3; ++i) {
        Setup& s = p.setups[2 + i].second;
        choose(s, "sky.kind", std::string("atmosphere"));
        choose(s, "sky.preset", std::string(hours[i].preset));
        choose(s, "sky.groundAlbedo", 0.06);
        choose(s, "ambient.kind", std::string("environment"));
        choose(s, "sun.elevation", hours[i].elevation);
        choose(s, "sun.azimuth", hours[i].azimuth);
        choose(s, "moon.azimuth", 150.0);
        choose(s, "moon.elevation", 32.0);
        choose(s, "exposure.ev100", hours[i].ev100);
    }
    // The same night with fog in from the sea: lit by every lamp, and by cones and halos in its place.
    for (const std::size_t i : {std::size_t(5), std::size_t(6)}) {
        Setup& s = p.setups[i].second;
        choose(s, "path.kind", std::string("clustered-deferred"));
        choose(s, "air.extinction", 0.018);
        choose(s, "air.height", 14.0);
        choose(s, "air.albedo", vec3(0.93f, 0.95f, 0.97f));
        choose(s, "air.kind", std::string(i == 5 ? "froxels" : "height"));
        choose(s, "air.profile", std::string("height"));
        choose(s, "air.anisotropy", 0.6);
        choose(s, "air.secondLobe", true);
        choose(s, "air.far", 160.0);
    }
    choose(p.setups[6].second, "beams.kind", std::string("mesh"));
    choose(p.setups[6].second, "beams.strength", 0.015);
    choose(p.setups[6].second, "beams.most", 64);
    choose(p.setups[1].second, "path.maxLights", 64);
    choose(p.setups[1].second, "path.targetFormat", std::string("rgba32f"));
    return p;
}

void add_cheap_lights(Project& p) {
    const double white = 1 / tone::exposure_scale(p.setup.number("exposure.ev100"));
    const auto add = [&](CheapStart start, const char* name, const std::string& standsFor) -> CheapLight& {
        p.cheapLights.push_back(starter(start, white, vec3(0)));
        CheapLight& l = p.cheapLights.back();
        l.id = static_cast<int>(p.cheapLights.size());
        l.name = name;
        for (const Light& lamp : p.lights)
            if (lamp.name == standsFor) {
                l.standsFor.push_back(lamp.id);
                l.position = lamp.position;
            }
        return l;
    };
    for (int i = 3; i <= 9; ++i) {
        char name[32], lamp[32];
        std::snprintf(name, sizeof name, "pool %02d", i);
        std::snprintf(lamp, sizeof lamp, "quay bollard %02d", i);
        CheapLight& pool = add(CheapStart::ball, name, lamp);
        pool.reach = 3.4f;
        pool.tint = {14.0f, 8.0f, 3.4f};
    }
    CheapLight& above = add(CheapStart::sky, "night from above", "moon");
    above.ramp = {{0.5f, {0.3f, 0.42f, 0.75f}, 0}, {1, {0.42f, 0.58f, 1.0f}, 0.012f}};
    add(CheapStart::rim, "rim", "").ramp = {
        {0.45f, {0.7f, 0.85f, 1.0f}, 0.16f}, {0.6f, {0.5f, 0.7f, 1.0f}, 0.03f}, {0.75f, vec3(0), 0}};
}

} // namespace mirolux::demo
