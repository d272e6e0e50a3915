#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/scene/project.h"
#include "demo/cold_store.h"
#include "demo/figurehead.h"
#include "demo/flat_writer.h"
#include "demo/glb_writer.h"
#include "demo/islet.h"
#include "demo/living.h"
#include "demo/materials.h"
#include "demo/project.h"
#include "demo/props.h"
#include "demo/sky_picture.h"
#include "demo/stress.h"
#include "demo/surroundings.h"
#include <cstdio>
#include <fmt/format.h>
#include <glm/gtc/matrix_transform.hpp>

// Writes Kestrel Quay, the demo: a small ferry terminal at night. Deterministic: the same program writes the same
// bytes.
using namespace mirolux;
using namespace mirolux::demo;
using glm::vec3;

namespace {

glm::mat4 at(vec3 p, float turn = 0.0f) {
    return glm::rotate(glm::translate(glm::mat4(1.0f), p), glm::radians(turn), vec3(0, 1, 0));
}

struct Lamps {
    GlbWriter& glb;
    std::vector<Motion> motions;
    int count = 0;

    int add(const std::string& name, LightType type, vec3 p, vec3 d, float candela, float kelvin, float range,
            float inner = 0, float outer = 45, vec3 color = vec3(1.0f)) {
        Light l;
        l.name = name;
        l.type = type;
        l.position = p;
        l.direction = glm::normalize(d);
        l.intensity = candela;
        l.kelvin = kelvin;
        l.color = color;
        l.range = range;
        l.innerConeAngle = glm::radians(inner);
        l.outerConeAngle = glm::radians(outer);
        // Lamps of about one luminance: what shines grows with the root of the intensity. The moon's disc is half a
        // degree.
        l.sourceSize =
            type == LightType::directional ? glm::radians(0.52f) : std::min(0.3f, 0.012f * std::sqrt(candela));
        ++count;
        return glb.light(l);
    }
    int point(const std::string& name, vec3 p, float candela, float kelvin, float range) {
        return add(name, LightType::point, p, {0, -1, 0}, candela, kelvin, range);
    }
    int spot(const std::string& name, vec3 p, vec3 d, float candela, float kelvin, float range, float inner,
             float outer) {
        return add(name, LightType::spot, p, d, candela, kelvin, range, inner, outer);
    }
};

void lay_ground(GlbWriter& glb, const Materials& m) {
    // Cells of 10 m: an object is what is culled and what is given lights, so the ground must not be one.
    MeshBuilder cell;
    cell.uvScale = 5.0f;
    cell.quad(m.asphalt, {0, 0, 10}, {10, 0, 0}, {0, 0, -10}, 2, 2);
    const int ground = glb.mesh("asphalt cell", cell);
    for (int x = -5; x < 6; ++x)
        for (int z = -5; z < 2; ++z)
            glb.node("asphalt", ground, at({10.0f * x, 0, 10.0f * z}));
    MeshBuilder sea;
    sea.uvScale = 9.0f;
    sea.quad(m.water, {0, 0, 20}, {20, 0, 0}, {0, 0, -20}, 4, 4);
    const int water = glb.mesh("water cell", sea);
    for (int x = -4; x < 5; ++x)
        for (int z = 0; z < 7; ++z)
            glb.node("water", water, at({20.0f * x, -2.2f, 20.0f + 20.0f * z}));
    MeshBuilder wall;
    wall.uvScale = 3.0f;
    wall.quad(m.concrete, {0, -3.0f, 0}, {10, 0, 0}, {0, 3.0f, 0}, 2, 1);
    wall.box(m.concrete, {0, 0, -0.6f}, {10, 0.18f, 0.6f});
    const int quayWall = glb.mesh("quay wall", wall);
    for (int x = -5; x < 6; ++x)
        glb.node("quay wall", quayWall, at({10.0f * x, 0, 20}));
    MeshBuilder lines;
    for (int i = 0; i < 4; ++i)
        lines.quad(m.lines, {0, 0.012f, -2.6f * i}, {2.4f, 0, 0}, {0, 0, -0.14f});
    const int dashes = glb.mesh("road paint", lines);
    for (int lane = 0; lane < 4; ++lane)
        for (int i = 0; i < 9; ++i)
            glb.node("lane line", dashes, at({18.3f + 3.6f * lane, 0, 12.0f - 6.0f * i}, 90));
}

void build_pier(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    MeshBuilder section;
    section.uvScale = 2.0f;
    for (int i = 0; i < 16; ++i)
        section.box(m.planks, {-3.4f, -0.06f, 0.5f * i}, {6.8f, 0.07f, 0.48f});
    for (const float x : {-3.0f, 0.0f, 3.0f})
        section.box(m.wood, {x - 0.15f, -0.4f, 0}, {0.3f, 0.33f, 8});
    for (const float x : {-3.0f, 3.0f}) {
        section.cylinder(m.wood, {x, -4, 4}, {x, 0.0f, 4}, 0.24f, 0.22f, 14);
        section.bar(m.wood, {x, -2.0f, 4}, {-x, -0.5f, 4}, 0.16f);
    }
    const int mesh = glb.mesh("pier section", section), rail = glb.mesh("railing", railing(m, 8)),
              lamp = glb.mesh("bollard lamp", bollard_lamp(m)),
              mooring = glb.mesh("mooring bollard", mooring_bollard(m));
    for (int i = 0; i < 9; ++i) {
        const float z = 20.0f + 8.0f * i;
        glb.node("pier section", mesh, at({2, 0.1f, z}));
        glb.node("pier railing", rail, at({-1.3f, 0.1f, z}));
        if (i % 3 != 1) glb.node("pier railing", rail, at({5.3f, 0.1f, z}));
        glb.node("mooring bollard", mooring, at({4.9f, 0.1f, z + 4}));
        for (int k = 0; k < 4; ++k) {
            const vec3 p(k % 2 ? 4.85f : -0.85f, 0.1f, z + (k / 2 ? 6.0f : 2.0f));
            glb.node("bollard lamp", lamp, at(p));
            lamps.point(numbered("pier bollard", 4 * i + k + 1), p + vec3(0, 0.98f, 0), 13, 2700, 7.5f);
        }
    }
    for (int i = 0; i < 12; ++i) {
        const vec3 p(-48.0f + 8.2f * i + (i > 5 ? 4.0f : 0.0f), 0.18f, 19.2f);
        glb.node("bollard lamp", lamp, at(p));
        lamps.point(numbered("quay bollard", i + 1), p + vec3(0, 0.98f, 0), 34, 2700, 12.0f);
    }
    glb.node("beacon", glb.mesh("beacon", beacon(m)), at({2, 0.0f, 96.5f}));
    for (int i = 0; i < 2; ++i) {
        const int id = lamps.spot(numbered("beacon beam", i + 1), {2, 10.0f, 96.5f}, {i ? 1.0f : -1.0f, -0.07f, 0.25f},
                                  26000, 5200, 130, 3, 7);
        lamps.motions.push_back({id, MotionKind::sweep, 12.0f, 0.0f, 6.2831853f, {}, 0.5f});
    }
    const int float_ = glb.mesh("buoy", buoy(m));
    for (int i = 0; i < 4; ++i) {
        const vec3 p(-22.0f - 9.0f * static_cast<float>(i % 2), -2.2f, 34.0f + 16.0f * i);
        glb.node("buoy", float_, at(p));
        const int id = lamps.add(numbered("buoy lamp", i + 1), LightType::point, p + vec3(0, 2.2f, 0), {0, -1, 0}, 30,
                                 0, 14, 0, 45, {1.0f, 0.08f, 0.04f});
        lamps.motions.push_back({id, MotionKind::blink, 3.0f, 0.25f * i, 6.2831853f, {}, 0.55f});
    }
}

void moor_ferry(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    const vec3 p(13.2f, -1.4f, 56);
    glb.node("ferry", glb.mesh("ferry", ferry(m)), at(p));
    for (int i = 0; i < 12; ++i)
        for (const float side : {-5.0f, 5.0f})
            lamps.point(numbered("ferry deck lamp", 2 * i + (side > 0) + 1), p + vec3(side, 4.4f, -19.0f + 2.7f * i),
                        22, 3600, 9.0f);
    lamps.spot("ferry ramp flood 01", p + vec3(-4.2f, 7.2f, -20), {-0.6f, -1, -0.5f}, 900, 4200, 26, 20, 48);
    lamps.spot("ferry ramp flood 02", p + vec3(4.2f, 7.2f, -20), {-0.2f, -1, -0.9f}, 900, 4200, 26, 20, 48);
    lamps.add("ferry port light", LightType::point, p + vec3(-2.9f, 9.0f, 6), {0, -1, 0}, 12, 0, 10, 0, 45,
              {1.0f, 0.06f, 0.04f});
    lamps.add("ferry starboard light", LightType::point, p + vec3(2.9f, 9.0f, 6), {0, -1, 0}, 12, 0, 10, 0, 45,
              {0.05f, 1.0f, 0.3f});
    lamps.point("ferry mast light", p + vec3(0, 14.7f, 3), 60, 5000, 22);
}

void build_hall(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    const vec3 p(-2, 0, 6);
    glb.node("waiting hall", glb.mesh("waiting hall", hall(m)), at(p));
    // One mesh and one node a pane: panes are sorted one by one.
    const int pane = glb.mesh("glass pane", hall_glass(m, 0.025f));
    for (const float z : {-7.0f, 7.0f})
        for (int i = 0; i < 24; ++i)
            if (i != 11 && i != 12) glb.node("glass pane", pane, at(p + vec3(-12.0f + i, 0, z)));
    for (int i = 0; i < 14; ++i)
        glb.node("glass pane", pane, at(p + vec3(12.0f, 0, 7.0f - i), 90));
    for (int row = 0; row < 2; ++row) // inner screens: three panes deep from the quay
        for (int i = 0; i < 7; ++i)
            glb.node("glass screen", pane, at(p + vec3(-8.0f + 2.2f * i, 0, -2.0f + 4.0f * row)));
    const int seat = glb.mesh("bench", bench(m));
    for (int row = 0; row < 3; ++row)
        for (int i = 0; i < 6; ++i)
            glb.node("bench", seat, at(p + vec3(-9.0f + 3.2f * i, 0.12f, -4.6f + 4.0f * row), row % 2 ? 180.0f : 0.0f));
    for (int i = 0; i < 5; ++i)
        for (int k = 0; k < 3; ++k) {
            const vec3 at_ = p + vec3(-8.9f + 4.6f * i, 4.0f, -3.5f + 3.5f * k);
            lamps.spot(numbered("hall ceiling", 3 * i + k + 1), at_, {0, -1, 0}, 85, 3000, 9, 30, 72);
        }
    for (int i = 0; i < 4; ++i) {
        const int id = lamps.point(numbered("hall sign", i + 1), p + vec3(-3.6f + 2.4f * i, 5.6f, 8.2f), 34, 2100, 10);
        if (i == 2) lamps.motions.push_back({id, MotionKind::blink, 1.7f, 0.0f, 6.2831853f, {}, 0.85f});
    }
    glb.node("ticket kiosk", glb.mesh("ticket kiosk", kiosk(m)), at({14.2f, 0, 9}, -90));
    for (int i = 0; i < 4; ++i)
        lamps.point(numbered("kiosk lamp", i + 1), {14.2f - 1.8f + 1.1f * i, 2.3f, 7.4f + 1.1f * i}, 16, 3000, 6);
}

void queue_cars(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    int meshes[5];
    for (int i = 0; i < 5; ++i)
        meshes[i] = glb.mesh(numbered("car", i + 1), car(m, i));
    int n = 0;
    for (int lane = 0; lane < 3; ++lane)
        for (int i = 0; i < 7; ++i, ++n) {
            const vec3 p(20.2f + 3.6f * lane, 0, 9.0f - 6.4f * i - 1.3f * lane);
            glb.node(numbered("car", n + 1), meshes[(n * 3 + lane) % 5], at(p, -90));
            for (const float side : {-0.6f, 0.6f}) {
                const int id = lamps.spot(numbered("headlamp", 2 * n + (side > 0) + 1), p + vec3(side, 0.64f, 2.22f),
                                          {0.03f * side, -0.12f, 1}, 700, 4300, 24, 8, 24);
                if (lane == 2 && i < 4)
                    lamps.motions.push_back(
                        {id, MotionKind::blink, 9.0f, 0.2f * static_cast<float>(i), 6.2831853f, {}, 0.7f});
            }
        }
    const int barrier = glb.mesh("gate barrier", gate_barrier(m));
    for (int lane = 0; lane < 3; ++lane)
        glb.node("gate barrier", barrier, at({18.6f + 3.6f * lane, 0, 13.4f}));
    const int lamp = glb.mesh("street lamp", street_lamp(m));
    for (int i = 0; i < 6; ++i) {
        const vec3 left(16.2f, 0, 12.0f - 10.0f * i), right(31.8f, 0, 7.0f - 10.0f * i);
        glb.node("street lamp", lamp, at(left));
        glb.node("street lamp", lamp, at(right, 180));
        lamps.spot(numbered("street lamp", 2 * i + 1), left + vec3(1.52f, 7.05f, 0), {0.12f, -1, 0}, 620, 2200, 19, 35,
                   68);
        lamps.spot(numbered("street lamp", 2 * i + 2), right + vec3(-1.52f, 7.05f, 0), {-0.12f, -1, 0}, 620, 2200, 19,
                   35, 68);
    }
}

void stack_containers(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    int meshes[5];
    for (int i = 0; i < 5; ++i)
        meshes[i] = glb.mesh(numbered("container", i + 1), container(m, i));
    int n = 0;
    for (int row = 0; row < 4; ++row)
        for (int i = 0; i < 4; ++i) {
            const int high = 1 + (row * 7 + i * 5 + 3) % 3;
            for (int level = 0; level < high; ++level, ++n)
                glb.node(numbered("container", n + 1), meshes[(n * 7 + row) % 5],
                         at({-44.0f + 6.5f * i + (level % 2 ? 0.15f : 0.0f), 2.6f * level, -34.0f + 7.0f * row},
                            level % 2 ? 180.0f : 0.0f));
        }
    const int gantryMesh = glb.mesh("gantry", gantry(m));
    const vec3 feet[4] = {{-48.5f, 0, 10}, {-17.5f, 0, -16}, {14.0f, 0, -26}, {36.0f, 0, 15}};
    const float turn[4] = {160, 250, 340, 200};
    for (int g = 0; g < 4; ++g) {
        const glm::mat4 place = at(feet[g], turn[g]);
        glb.node("floodlight gantry", gantryMesh, place);
        for (int i = 0; i < 4; ++i) {
            const vec3 p = vec3(place * glm::vec4(-1.2f + 0.8f * i, 13.6f, 0.9f, 1)),
                       d = glm::mat3(place) * vec3(-0.6f + 0.4f * i, -1.15f, 0.9f);
            lamps.spot(numbered("gantry flood", 4 * g + i + 1), p, d, 2600, 4000, 42, 14, 36);
        }
    }
    const int drum = glb.mesh("drum", barrel(m, m.container[1])), drum2 = glb.mesh("drum", barrel(m, m.sign)),
              box = glb.mesh("crate", crate(m));
    for (int i = 0; i < 18; ++i) {
        glb.node("drum", i % 3 ? drum : drum2,
                 at({-16.0f + 0.7f * static_cast<float>(i % 6), 0, 14.0f + 0.75f * static_cast<float>(i / 6)}));
        if (i < 12)
            glb.node("crate", box,
                     at({-22.0f + 1.2f * static_cast<float>(i % 4), 0.97f * static_cast<float>(i / 8),
                         15.0f + 1.2f * static_cast<float>((i / 4) % 2)},
                        7.0f * static_cast<float>(i)));
    }
    for (int i = 0; i < 6; ++i) {
        const int id =
            lamps.point(numbered("yard hanging lamp", i + 1),
                        {-40.6f + 6.5f * static_cast<float>(i % 3), 4.6f, -30.5f + 14.0f * static_cast<float>(i / 3)},
                        70, 2500, 14);
        if (i < 3)
            lamps.motions.push_back({id, MotionKind::shuttle, 5.0f + i, 0.1f * i, 6.2831853f, {0.9f, 0, 0.3f}, 0.5f});
    }
}

void build_workshop(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    const vec3 p(-6, 0, -33);
    glb.node("workshop", glb.mesh("workshop", workshop(m)), at(p));
    const int table = glb.mesh("workbench", workbench(m)), drum = glb.mesh("drum", barrel(m, m.container[4]));
    for (int room = 0; room < 4; ++room) {
        const vec3 c = p + vec3(-10.5f + 7.0f * room, 0.05f, 0);
        glb.node("workbench", table, at(c + vec3(0.4f, 0, -3.9f)));
        glb.node("drum", drum, at(c + vec3(2.6f, 0, -3.6f)));
        for (int k = 0; k < 2; ++k)
            lamps.spot(numbered("workshop tube", 2 * room + k + 1), c + vec3(0, 3.9f, k ? 2.0f : -2.2f), {0, -1, 0},
                       130, room % 2 ? 4800.0f : 2900.0f, 9, 40, 80);
        const int id = lamps.point(numbered("workshop hand lamp", room + 1), c + vec3(0.9f, 1.6f, -3.5f), 24, 3200, 6);
        if (room < 2) lamps.motions.push_back({id, MotionKind::blink, 2.3f, 0.3f * room, 6.2831853f, {}, 0.6f});
    }
}

/// Last, so that what is numbered by its place in the file keeps its number.
void stand_figurehead(GlbWriter& glb, const Materials& m, Lamps& lamps) {
    const vec3 p(-7.3f, 0.12f, 6.7f);
    sway_figurehead(glb, figurehead(m.wax, m.glassEye, m.varnish, m.brass), p, -36);
    const vec3 lamp = p + vec3(0.95f, 0.35f, -0.8f), aim = p + vec3(0, 1.25f, 0);
    lamps.spot("figurehead lamp", lamp, aim - lamp, 46, 3000, 5, 16, 34);
}

/// Leaves of the workshop's doors, sunk into the ground: they rise to close, chinks of the slats above them too.
void hang_doors(GlbWriter& glb, const Materials& m) {
    const vec3 p(-6, 0, -33);
    MeshBuilder roller, gate;
    roller.box(m.steel, {-0.03f, 0, -1.5f}, {0.06f, 3.15f, 3.0f});
    gate.box(m.steel, {-3.2f, 0, -0.03f}, {6.4f, 4.35f, 0.06f});
    const int rollerMesh = glb.mesh("roller door", roller), gateMesh = glb.mesh("workshop gate", gate);
    for (int i = 0; i < 3; ++i)
        glb.node(numbered("roller door", i + 1), rollerMesh, at(p + vec3(-7.0f + 7.0f * i, -3.3f, 0)));
    for (int i = 0; i < 4; ++i)
        glb.node(numbered("workshop gate", i + 1), gateMesh, at(p + vec3(-10.5f + 7.0f * i, -4.45f, 4.5f)));
}

struct Arguments {
    std::filesystem::path folder;
    int lights = 0; // of the stress project; 0: none is written
    unsigned seed = 1;
    bool hall = false, flat = false;
    int edge = 0; // cells, of an islet beside; 0: none is written
};

std::optional<Arguments> read_arguments(int argc, char** argv) {
    if (argc < 2) return {};
    Arguments a;
    a.folder = argv[1];
    for (int i = 2; i < argc; ++i) {
        const std::string option = argv[i];
        if (option == "--hall")
            a.hall = true;
        else if (option == "--flat")
            a.flat = true;
        else if (option == "--lights" && i + 1 < argc)
            a.lights = std::atoi(argv[++i]);
        else if (option == "--edge" && i + 1 < argc)
            a.edge = std::atoi(argv[++i]);
        else if (option == "--seed" && i + 1 < argc)
            a.seed = static_cast<unsigned>(std::atoi(argv[++i]));
        else
            return {};
    }
    if ((a.lights != 0 && (a.lights < (a.flat ? 1 : 64) || a.lights > 16384)) || ((a.hall || a.flat) && a.lights == 0))
        return {};
    if (a.edge != 0 && (a.edge < 32 || a.edge > blocks::largest_edge)) return {};
    return a;
}

/// The quay's scene and its lamps, as one glTF file.
Result<Lamps> write_quay(GlbWriter& glb, const std::filesystem::path& file) {
    const Materials materials = make_materials(glb);
    Lamps lamps{glb, {}};
    const Camera cameras[] = {{"quay", {-19.0f, 4.6f, 25.5f}, {5.5f, 1.4f, 11.0f}, 0.80f, 0.1f},
                              {"pier head", {-0.2f, 1.9f, 70}, {8, 3.2f, 40}, 1.0f, 0.1f},
                              {"car queue", {18.0f, 2.9f, 17.2f}, {24.5f, 0.5f, -4}, 0.95f, 0.1f},
                              {"container yard", {-17, 5.5f, 2}, {-36, 2.0f, -20}, 0.95f, 0.1f},
                              {"workshop", {-4, 2.4f, -20}, {-9, 1.4f, -33}, 1.05f, 0.1f},
                              {"through the glass", {-5.5f, 1.8f, 16.5f}, {-1, 1.6f, -2}, 0.95f, 0.1f},
                              {"in the hall", {-11.2f, 1.75f, 11.2f}, {-3, 1.3f, 4.5f}, 1.05f, 0.1f},
                              {"figurehead", {-9.05f, 1.62f, 7.85f}, {-7.25f, 1.08f, 6.65f}, 0.74f, 0.05f},
                              {"fence", {-14.9f, 1.3f, 22.1f}, {-14.65f, 0.87f, 18.3f}, 0.80f, 0.05f},
                              {"from the sea", {-34, 9, 62}, {2, 2, 16}, 0.85f, 0.2f},
                              {"toward the beacon", {-34, 9, 62}, {4, 8, 90}, 0.95f, 0.2f}};
    for (const Camera& c : cameras)
        glb.camera(c);
    lay_ground(glb, materials);
    lamps.add("moon", LightType::directional, {0, 60, 0}, {0.35f, -0.8f, -0.5f}, 0.12f, 6500, 0);
    build_pier(glb, materials, lamps);
    moor_ferry(glb, materials, lamps);
    build_hall(glb, materials, lamps);
    queue_cars(glb, materials, lamps);
    stack_containers(glb, materials, lamps);
    build_workshop(glb, materials, lamps);
    stand_figurehead(glb, materials, lamps);
    const glm::mat4 fence = at({-17.4f, -0.04f, 18.3f});
    glb.node("picket fence", glb.mesh("picket fence", picket_fence(materials)), fence);
    glb.node("tide board", glb.mesh("tide board", tide_board(materials)), fence);
    lamps.count += bring_to_life(glb, materials);
    hang_doors(glb, materials);
    if (auto done = glb.write(file); !done) return tl::unexpected(done.error());
    return lamps;
}

/// The same stage with other lights: the scene's own are taken out.
Result<void> write_stress(const Arguments& a, const Project& quay, std::shared_ptr<const SceneAsset> stage) {
    Project p;
    p.name = (a.hall ? "hall-" : "quay-") + std::to_string(a.lights);
    p.scenePath = quay.scenePath;
    Box where{{-45, 0.4f, -40}, {45, 7, 75}};
    if (a.hall) {
        const auto file = a.folder / "hall.glb";
        if (auto done = write_hall(file, a.seed); !done) return done;
        auto read = import_gltf(file);
        if (!read) return tl::unexpected(read.error());
        stage = *read;
        p.scenePath = std::filesystem::absolute(file).lexically_normal().string();
        where = {{-31, 0.4f, -31}, {31, 7, 31}};
    }
    p.lights = stress_lights(a.lights, a.seed, where);
    p.cameras = stage->cameras;
    p.view.camera = stage->cameras.front();
    p.targets = quay.targets;
    return save_project(p, *stage, a.folder / (p.name + ".mirolux"));
}

Result<void> write_demo(const Arguments& a) {
    std::error_code ec; // writing says what is wrong
    std::filesystem::create_directories(a.folder, ec);
    const auto scene = a.folder / "kestrel-quay.glb";
    GlbWriter glb;
    auto lamps = write_quay(glb, scene);
    if (!lamps) return tl::unexpected(lamps.error());
    auto asset = import_gltf(scene, {.decodeImages = false});
    if (!asset) return tl::unexpected(asset.error());
    Project project = make_project(lamps->motions);
    project.scenePath = std::filesystem::absolute(scene).lexically_normal().string();
    project.lights = (*asset)->lights;
    project.cameras = (*asset)->cameras;
    project.view.camera = project.cameras.front();
    add_cheap_lights(project);
    for (const auto& [name, picture] : {std::pair(sky_file_name, dusk_sky(1024)),
                                        {clear_day_file, clear_day(512)},
                                        {overcast_file, overcast_day(256)},
                                        {lamp_room_file, lamp_room(512)}})
        if (auto done = write_hdr(a.folder / name, picture); !done) return done;
    if (auto done = save_project(project, **asset, a.folder / "kestrel-quay.mirolux"); !done) return done;
    if (auto done = write_flat_demos(a.folder); !done) return done;
    if (auto done = write_islet(a.folder); !done) return done;
    if (auto done = write_cold_store(a.folder); !done) return done;
    if (a.edge)
        if (auto done = write_islet_of_edge(a.folder, a.edge, a.seed); !done) return done;
    if (a.flat) return write_flat_stress(a.folder, a.lights, a.seed);
    if (a.lights)
        if (auto done = write_stress(a, project, *asset); !done) return done;
    std::printf("Kestrel Quay: %zu triangles, %zu objects, %d lights, %zu of them moving or switching\n",
                (*asset)->triangles(), (*asset)->objects.size(), lamps->count, lamps->motions.size());
    return {};
}

} // namespace

int main(int argc, char** argv) {
    const auto arguments = read_arguments(argc, argv);
    if (!arguments) {
        std::fprintf(
            stderr,
            "use: mirolux-make-demo FOLDER                            writes kestrel-quay.glb and "
            "kestrel-quay.mirolux there\n"
            "     mirolux-make-demo FOLDER --lights N [--hall] [--seed S]  also a project with N "
            "seeded lights (64 to 16384), in the demo or in an abstract hall\n"
            "     mirolux-make-demo FOLDER --lights N --flat [--seed S]  also the net loft with N seeded "
            "lights (1 to 16384)\n"
            "     mirolux-make-demo FOLDER --edge N [--seed S]  also islet-N.blocks, the islet beside itself to "
            "an edge of N cells (32 to 1024)\n");
        return 2;
    }
    if (auto done = write_demo(*arguments); !done) {
        std::fprintf(stderr, "%s\n", to_text(done.error()).c_str());
        return 2;
    }
    return 0;
}
