#include "core/blocks/world_edits.h"
#include "core/blocks/grid_walk.h"
#include "core/blocks/lit_world.h"

namespace mirolux::blocks {

Json changes(const World& from, const World& to) {
    Json cells = Json::array(), props = Json::array();
    if (from.still.size() == to.still.size())
        for (const Flood::Edit& e : edits_between(from.still, to.still)) {
            if (!cells.empty()) {
                Json& last = cells.back();
                if (last[1] == e.cell.y && last[2] == e.cell.z && last[4] == e.material &&
                    last[0].get<int>() + last[3].get<int>() == e.cell.x) {
                    last[3] = last[3].get<int>() + 1;
                    continue;
                }
            }
            cells.push_back({e.cell.x, e.cell.y, e.cell.z, 1, e.material});
        }
    for (std::size_t i = 0; i < std::min(from.props.size(), to.props.size()); ++i) {
        const Prop &a = from.props[i], &b = to.props[i];
        if (a.place != b.place || a.turn != b.turn || a.rate != b.rate)
            props.push_back({{"name", b.name}, {"place", to_array(b.place)}, {"turn", b.turn}, {"rate", b.rate}});
    }
    if (cells.empty() && props.empty()) return nullptr;
    Json out = Json::object();
    if (!cells.empty()) out["cells"] = std::move(cells);
    if (!props.empty()) out["props"] = std::move(props);
    return out;
}

World changed(const World& from, const JsonCursor& changes) {
    World out = from;
    const JsonCursor cells = changes.list("cells"), props = changes.list("props");
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const JsonCursor run = cells.at(i);
        int v[5];
        for (std::size_t k = 0; k < 5; ++k)
            v[k] = static_cast<int>(run.at(k).whole(largest_edge));
        const glm::ivec3 first(v[0], v[1], v[2]);
        if (!from.still.holds(first) || v[3] < 1 || v[0] + v[3] > from.still.size().x)
            run.complain("reaches beyond the world");
        if (v[4] >= static_cast<int>(from.palette.size()))
            run.complain(fmt::format("is of material {}; there are {}", v[4], from.palette.size() - 1));
        for (int x = 0; x < v[3]; ++x)
            out.still.set(first + glm::ivec3(x, 0, 0), static_cast<std::uint8_t>(v[4]));
    }
    for (std::size_t i = 0; i < props.size(); ++i) {
        const JsonCursor j = props.at(i);
        for (Prop& p : out.props)
            if (p.name == j["name"].text()) {
                p.place = j["place"].vector<3>();
                p.turn = static_cast<float>(j.number("turn", p.turn, -1e6, 1e6));
                p.rate = static_cast<float>(j.number("rate", p.rate, -1e3, 1e3));
            }
    }
    return out;
}

std::optional<PickedCell> pick_cell(const World& world, const Ray& ray) {
    const double edge = world.edge;
    const glm::dvec3 from = glm::dvec3(ray.origin) / edge, d = glm::normalize(glm::dvec3(ray.direction));
    std::optional<PickedCell> out;
    const glm::dvec3 size(world.still.size());
    const double most = glm::length(size) + glm::length(from - 0.5 * size); // beyond it there is no cell
    walk_grid(from, d, most, [&](const glm::ivec3& c, double distance, int axis) {
        if (world.still.at(c) == 0) return true;
        out = PickedCell{c, 2 * axis + (d[axis] > 0 ? 1 : 0), distance * edge};
        return false;
    });
    return out;
}

void apply(World& world, const PickedCell& at, const Brush& brush) {
    const glm::ivec3 middle = brush.tool == Brush::Tool::add ? at.cell + Neighbours::directions[at.face] : at.cell;
    const int r = brush.radius;
    for (int y = -r; y <= r; ++y)
        for (int z = -r; z <= r; ++z)
            for (int x = -r; x <= r; ++x) {
                if (x * x + y * y + z * z > r * r + r) continue; // rounder than r * r alone
                const glm::ivec3 c = middle + glm::ivec3(x, y, z);
                const bool air = world.still.at(c) == 0;
                if (brush.tool == Brush::Tool::add ? air : !air)
                    world.still.set(c, brush.tool == Brush::Tool::remove ? std::uint8_t(0) : brush.material);
            }
}

} // namespace mirolux::blocks
