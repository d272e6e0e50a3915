#include "demo/cold_store.h"
#include "core/scene/project.h"
#include "demo/glb_writer.h"
#include "demo/materials.h"
#include <glm/gtc/matrix_transform.hpp>
#include <random>
#include <set>

namespace mirolux::demo {

using glm::ivec2;
using glm::vec3;

namespace {

constexpr int across = 10, deep = 6;
constexpr float edge = 6, height = 3, thick = 0.2f, gap = 1.6f, head = 2.2f; // metres; gap, head: of an opening

vec3 room_middle(ivec2 room) {
    return {edge * (static_cast<float>(room.x) + 0.5f), 0, edge * (static_cast<float>(room.y) + 0.5f)};
}
glm::mat4 at(const vec3& p, float turn = 0) {
    return glm::rotate(glm::translate(glm::mat4(1.0f), p), glm::radians(turn), vec3(0, 1, 0));
}

/// Rooms joined so that all are reached: a walk that turns back where it is stuck, and a few openings more.
struct Maze {
    std::set<std::pair<int, int>> openings; // by room number, the lower one first
    std::vector<int> way;                   // the rooms as they are first reached, with the way back

    explicit Maze(std::mt19937& random) {
        std::vector<bool> been(across * deep, false);
        std::vector<int> back{0};
        been[0] = true;
        way.push_back(0);
        while (!back.empty()) {
            const int room = back.back();
            std::vector<int> next;
            for (const int n : neighbours(room))
                if (!been[static_cast<std::size_t>(n)]) next.push_back(n);
            if (next.empty()) {
                back.pop_back();
                if (!back.empty()) way.push_back(back.back());
                continue;
            }
            const int n = next[random() % next.size()];
            been[static_cast<std::size_t>(n)] = true;
            openings.insert(std::minmax(room, n));
            back.push_back(n);
            way.push_back(n);
        }
        for (int i = 0; i < 12; ++i) {
            const int room = static_cast<int>(random() % (across * deep));
            const std::vector<int> beside = neighbours(room);
            openings.insert(std::minmax(room, beside[random() % beside.size()]));
        }
    }
    static ivec2 place(int room) { return {room % across, room / across}; }
    static std::vector<int> neighbours(int room) {
        const ivec2 p = place(room);
        std::vector<int> out;
        if (p.x > 0) out.push_back(room - 1);
        if (p.x < across - 1) out.push_back(room + 1);
        if (p.y > 0) out.push_back(room - across);
        if (p.y < deep - 1) out.push_back(room + across);
        return out;
    }
};

/// A wall along x about the origin, with or without an opening in its middle.
MeshBuilder wall(int material, bool open) {
    MeshBuilder b;
    const float half = 0.5f * edge;
    if (!open) {
        b.box(material, {-half, 0, -0.5f * thick}, {edge, height, thick});
        return b;
    }
    b.box(material, {-half, 0, -0.5f * thick}, {half - 0.5f * gap, height, thick});
    b.box(material, {0.5f * gap, 0, -0.5f * thick}, {half - 0.5f * gap, height, thick});
    b.box(material, {-0.5f * gap, head, -0.5f * thick}, {gap, height - head, thick});
    return b;
}

void furnish(GlbWriter& glb, const Maze& maze, std::mt19937& random) {
    const auto plain = [&](const char* name, vec3 c, float roughness) {
        return glb.material(
            {{"name", name},
             {"pbrMetallicRoughness",
              {{"baseColorFactor", {c.r, c.g, c.b, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", roughness}}}});
    };
    const int concrete = plain("concrete", {0.44f, 0.45f, 0.46f}, 0.7f),
              panel = plain("panel", {0.62f, 0.66f, 0.68f}, 0.45f), steel = plain("shelf", {0.30f, 0.36f, 0.42f}, 0.4f),
              wood = plain("crate wood", {0.46f, 0.33f, 0.19f}, 0.8f),
              fish = plain("crate lid", {0.24f, 0.42f, 0.46f}, 0.6f);
    MeshBuilder floor, roof, shelf, crates, barrel;
    floor.quad(concrete, {-3, 0, 3}, {edge, 0, 0}, {0, 0, -edge}, 2, 2);
    roof.quad(panel, {-3, height, -3}, {edge, 0, 0}, {0, 0, edge}, 2, 2);
    for (int board = 0; board < 4; ++board)
        shelf.box(steel, {-1.2f, 0.35f + 0.55f * static_cast<float>(board), -0.25f}, {2.4f, 0.04f, 0.5f});
    for (const float x : {-1.2f, 1.16f})
        for (const float z : {-0.25f, 0.21f})
            shelf.box(steel, {x, 0, z}, {0.04f, 2.1f, 0.04f});
    crates.box(wood, {-0.5f, 0, -0.4f}, {1.0f, 0.5f, 0.8f});
    crates.box(fish, {-0.45f, 0.5f, -0.35f}, {0.9f, 0.06f, 0.7f});
    barrel.cylinder(fish, {0, 0, 0}, {0, 0.9f, 0}, 0.3f, 0.28f, 32);
    const int meshes[] = {glb.mesh("floor", floor), glb.mesh("roof", roof), glb.mesh("shelf", shelf),
                          glb.mesh("crate", crates), glb.mesh("barrel", barrel)};
    const auto part = [&] { return static_cast<float>(random() >> 8) / 16777216.0f; };
    for (int room = 0; room < across * deep; ++room) {
        const vec3 m = room_middle(Maze::place(room));
        glb.node(numbered("floor", room + 1), meshes[0], at(m));
        glb.node(numbered("roof", room + 1), meshes[1], at(m));
        glb.node(numbered("shelf", room + 1), meshes[2], at(m + vec3(-1.5f, 0, 2.6f), 180));
        for (int i = 0; i < 3; ++i)
            glb.node(numbered("crate", 3 * room + i + 1), meshes[3],
                     at(m + vec3(1.0f + 1.2f * part(), 0, -2.4f + 1.6f * static_cast<float>(i)), 40 * part()));
        for (int i = 0; i < 2; ++i)
            glb.node(numbered("barrel", 2 * room + i + 1), meshes[4],
                     at(m + vec3(-2.4f + 0.7f * static_cast<float>(i), 0, -2.3f)));
        Light lamp;
        lamp.name = numbered("store lamp", room + 1);
        lamp.type = LightType::point;
        lamp.position = m + vec3(0, 2.7f, 0);
        lamp.intensity = 38;
        lamp.kelvin = room % 3 ? 4200.0f : 2900.0f;
        lamp.range = 7;
        lamp.sourceSize = 0.06f;
        glb.light(lamp);
    }
    const int closed = glb.mesh("wall", wall(panel, false)), open = glb.mesh("wall with an opening", wall(panel, true));
    int n = 0;
    for (int room = 0; room < across * deep; ++room) {
        const ivec2 p = Maze::place(room);
        const vec3 m = room_middle(p);
        const auto put = [&](int beside, const vec3& off, float turn) {
            const bool joined = beside >= 0 && maze.openings.count(std::minmax(room, beside)) > 0;
            glb.node(numbered("wall", ++n), joined ? open : closed, at(m + off, turn));
        };
        if (p.x == 0) put(-1, {-0.5f * edge, 0, 0}, 90);
        if (p.y == 0) put(-1, {0, 0, -0.5f * edge}, 0);
        put(p.x < across - 1 ? room + 1 : -1, {0.5f * edge, 0, 0}, 90);
        put(p.y < deep - 1 ? room + across : -1, {0, 0, 0.5f * edge}, 0);
    }
}

/// Through the first rooms of the maze's own way, 1.3 m a second.
Walk walk_of(const Maze& maze) {
    Walk walk;
    walk.name = "through the store";
    walk.fovY = 1.0f;
    double seconds = 0;
    vec3 eye = room_middle(Maze::place(maze.way[0])) + vec3(0, 1.7f, 0);
    for (std::size_t i = 0; i + 1 < std::min<std::size_t>(maze.way.size(), 30); ++i) {
        const vec3 here = room_middle(Maze::place(maze.way[i])) + vec3(0, 1.7f, 0),
                   next = room_middle(Maze::place(maze.way[i + 1])) + vec3(0, 1.7f, 0), door = 0.5f * (here + next);
        for (const vec3& stop : {here, door}) { // straight through each opening
            seconds += glm::length(stop - eye) / 1.3;
            eye = stop;
            walk.keys.push_back({seconds, stop, stop + (next - here)});
        }
    }
    return walk;
}

} // namespace

Result<void> write_cold_store(const std::filesystem::path& folder) {
    std::mt19937 random(60);
    const Maze maze(random);
    GlbWriter glb;
    furnish(glb, maze, random);
    const vec3 first = room_middle(Maze::place(maze.way[0])), next = room_middle(Maze::place(maze.way[1])),
               way = glm::normalize(next - first);
    const vec3 eye = first - 1.6f * way + 0.8f * vec3(way.z, 0, -way.x) + vec3(0, 1.7f, 0);
    glb.camera({"first room", eye, next + vec3(0, 1.1f, 0), 1.0f, 0.1f});
    glb.camera({"above", {30, 46, 62}, {30, 0, 20}, 0.9f, 0.1f});
    const auto file = folder / "cold-store.glb";
    if (auto done = glb.write(file); !done) return done;
    auto asset = import_gltf(file);
    if (!asset) return tl::unexpected(asset.error());
    Project p;
    p.name = "Cold store";
    p.scenePath = std::filesystem::absolute(file).lexically_normal().string();
    p.lights = (*asset)->lights;
    p.cameras = (*asset)->cameras;
    p.view.camera = p.cameras.front();
    p.targets = standard_targets();
    p.targetByDevice = true;
    p.walks = {walk_of(maze)};
    for (const auto& [a, b] : maze.openings) {
        Door d;
        d.id = static_cast<int>(p.doors.size());
        d.name = "door " + std::to_string(d.id + 1);
        d.center = 0.5f * (room_middle(Maze::place(a)) + room_middle(Maze::place(b))) + vec3(0, 0.5f * head, 0);
        d.size = {gap, head};
        d.turn = b == a + 1 ? glm::radians(90.0f) : 0.0f;
        p.doors.push_back(d);
    }
    for (const auto& [key, text] : {std::pair("path.kind", "clustered-forward"),
                                    {"ambient.kind", "constant"},
                                    {"ambient.constant", "0.25,0.27,0.3"},
                                    {"exposure.ev100", "4.2"},
                                    {"shadow.maps", "on"},
                                    {"shadow.casters", "8"}})
        if (auto done = p.setup.set_text(key, text); !done) return done;
    return save_project(p, **asset, folder / "cold-store.mirolux");
}

} // namespace mirolux::demo
