#pragma once
#include "core/visibility/rooms.h"
#include "support/scenes.h"

// Two rooms side by side along x, 4 x 3 x 4 m each, with an opening between them and a few things in both.
namespace mirolux::test {

/// A box as one object.
inline int add_solid(SceneAsset& asset, const std::string& name, const Box& box) {
    SceneAsset faces;
    add_box(faces, 0, box.low, box.high - box.low);
    Primitive p;
    p.material = 0;
    p.bounds = box;
    for (const Primitive& f : faces.primitives) {
        const auto first = static_cast<std::uint32_t>(p.vertices.size());
        p.vertices.insert(p.vertices.end(), f.vertices.begin(), f.vertices.end());
        for (const std::uint32_t i : f.indices)
            p.indices.push_back(first + i);
    }
    Object o;
    o.primitive = static_cast<int>(asset.primitives.size());
    o.bounds = box;
    asset.primitives.push_back(std::move(p));
    asset.objects.push_back(o);
    asset.objectNames.push_back({name, name, -1});
    asset.bounds.add(box);
    return static_cast<int>(asset.objects.size()) - 1;
}

struct TwoRooms {
    Scene scene;
    std::vector<Box> solids; // of the objects, in their order
    int inFirst = -1, ahead = -1,
        aside = -1; // things: in the first room, and in the second where the opening shows it, and not
    Door door;

    /// hole: of the dividing wall beside the opening, metres across; 0: none. ground: floor and roof are there.
    explicit TwoRooms(float hole = 0, bool opening = true) {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.6f), 0, 0.7f));
        const auto solid = [&](const std::string& name, glm::vec3 low, glm::vec3 high) {
            solids.push_back({low, high});
            return add_solid(a, name, solids.back());
        };
        solid("floor", {-0.2f, -0.2f, -0.2f}, {8.4f, 0, 4.2f});
        solid("roof", {-0.2f, 3, -0.2f}, {8.4f, 3.2f, 4.2f});
        solid("north", {-0.2f, 0, -0.2f}, {8.4f, 3, 0});
        solid("south", {-0.2f, 0, 4}, {8.4f, 3, 4.2f});
        solid("west", {-0.2f, 0, 0}, {0, 3, 4});
        solid("east", {8.2f, 0, 0}, {8.4f, 3, 4});
        if (opening) {
            solid("wall, north part", {4, 0, 0}, {4.2f, 3, 1.5f - hole});
            solid("wall, south part", {4, 0, 2.5f}, {4.2f, 3, 4});
            solid("lintel", {4, 2.2f, 1.5f}, {4.2f, 3, 2.5f});
            if (hole > 0) solid("wall, beside the opening", {4, 0, 1.5f - 0.5f * hole}, {4.2f, 3, 1.5f});
        } else
            solid("wall", {4, 0, 0}, {4.2f, 3, 4});
        inFirst = solid("stool", {1, 0, 3}, {1.5f, 0.5f, 3.5f});
        ahead = solid("table", {6, 0, 1.7f}, {7, 0.8f, 2.3f});
        aside = solid("chest", {4.4f, 0, 0.1f}, {4.9f, 0.5f, 0.6f});
        scene.asset = finished(std::move(a));
        door.id = 3;
        door.name = "door";
        door.center = {4.1f, 1.1f, 2};
        door.size = {1, 2.2f};
        door.turn = glm::radians(90.0f);
        scene.doors = {door};
    }
};

/// True if nothing of these boxes but those of `without` lies between two points. Slabs: T. Kay and J. Kajiya, 1986.
inline bool sees_past(const std::vector<Box>& boxes, const glm::vec3& from, const glm::vec3& to, int without) {
    for (std::size_t b = 0; b < boxes.size(); ++b) {
        if (static_cast<int>(b) == without) continue;
        double enter = 0, leave = 1;
        for (int k = 0; k < 3; ++k) {
            const double d = double(to[k]) - double(from[k]), low = double(boxes[b].low[k]) - double(from[k]),
                         high = double(boxes[b].high[k]) - double(from[k]);
            if (std::abs(d) < 1e-12) {
                if (low > 0 || high < 0) enter = 2;
                continue;
            }
            enter = std::max(enter, std::min(low / d, high / d));
            leave = std::min(leave, std::max(low / d, high / d));
        }
        if (enter < leave) return false;
    }
    return true;
}

} // namespace mirolux::test
