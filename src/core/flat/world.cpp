#include "core/flat/world.h"
#include <algorithm>
#include <cmath>

namespace mirolux::flat {

const char* word(Seen s) {
    return s == Seen::side ? "side" : "above";
}

template <class List>
static auto* of_id(const List& list, int id) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.id == id; });
    return it == list.end() ? nullptr : &*it;
}

const Sprite* World::sprite(int id) const {
    return of_id(sprites, id);
}
const Wall* World::wall(int id) const {
    return of_id(walls, id);
}
int World::layer(const std::string& name) const {
    const auto it = std::find_if(layers.begin(), layers.end(), [&](const Layer& l) { return l.name == name; });
    return it == layers.end() ? -1 : static_cast<int>(it - layers.begin());
}

glm::dvec2 placed(const Sprite& s, const glm::dvec2& local) {
    const double c = std::cos(s.turn), n = std::sin(s.turn);
    const glm::dvec2 p = local * glm::dvec2(s.scale);
    return glm::dvec2(s.place) + glm::dvec2(c * p.x - n * p.y, n * p.x + c * p.y);
}

glm::dvec2 local_to(const Sprite& s, const glm::dvec2& point) {
    const double c = std::cos(s.turn), n = std::sin(s.turn);
    const glm::dvec2 d = point - glm::dvec2(s.place);
    return glm::dvec2(c * d.x + n * d.y, -n * d.x + c * d.y) / glm::dvec2(s.scale);
}

Occluder outline_of(const World& world, const Wall& wall) {
    Occluder out = wall.outline;
    if (const Sprite* s = world.sprite(wall.sprite))
        for (glm::dvec2& p : out.points)
            p = placed(*s, p);
    return out;
}

bool stops_light(const World& world, const Wall& wall) {
    const Sprite* s = world.sprite(wall.sprite);
    return wall.casts && !(s && s->hidden);
}

static float height_in(const World& world, const Wall& wall) {
    return world.seen == Seen::above ? wall.height : 0.0f;
}

std::vector<TallEdge> tall_edges_of(const World& world) {
    std::vector<TallEdge> out;
    for (const Wall& w : world.walls)
        if (stops_light(world, w))
            for (const Edge& e : edges_of({outline_of(world, w)}))
                out.push_back({e, height_in(world, w)});
    return out;
}

bool has_heights(const World& world) {
    return std::any_of(world.walls.begin(), world.walls.end(),
                       [&](const Wall& w) { return stops_light(world, w) && height_in(world, w) > 0; });
}

std::vector<Occluder> outlines_of(const World& world) {
    std::vector<Occluder> out;
    for (const Wall& w : world.walls)
        if (stops_light(world, w)) out.push_back(outline_of(world, w));
    return out;
}

static double side(const glm::dvec2& a, const glm::dvec2& b, const glm::dvec2& p) {
    return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
}

bool crosses_itself(const Occluder& outline) {
    const std::vector<Edge> edges = edges_of({outline});
    // By their left ends: only those that overlap along x are held against each other.
    std::vector<std::size_t> order(edges.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    const auto left = [&](std::size_t i) { return std::min(edges[i].a.x, edges[i].b.x); };
    const auto right = [&](std::size_t i) { return std::max(edges[i].a.x, edges[i].b.x); };
    std::sort(order.begin(), order.end(), [&](std::size_t i, std::size_t j) { return left(i) < left(j); });
    for (std::size_t k = 0; k < order.size(); ++k)
        for (std::size_t m = k + 1; m < order.size() && left(order[m]) <= right(order[k]); ++m) {
            const Edge &e = edges[order[k]], &f = edges[order[m]];
            if (side(e.a, e.b, f.a) * side(e.a, e.b, f.b) < 0 && side(f.a, f.b, e.a) * side(f.a, f.b, e.b) < 0)
                return true;
        }
    return false;
}

} // namespace mirolux::flat
