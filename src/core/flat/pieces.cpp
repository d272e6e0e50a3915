#include "core/flat/pieces.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux::flat {

bool holds(const World& w, const Piece& p) {
    return p.kind == PieceKind::sprite ? w.sprite(p.id) != nullptr
                                       : p.kind == PieceKind::wall && w.wall(p.id) != nullptr;
}

std::string name_of(const World& w, const Piece& p) {
    if (!holds(w, p)) return {};
    return p.kind == PieceKind::sprite ? w.sprite(p.id)->name : w.wall(p.id)->name;
}

const char* word(Grip grip) {
    switch (grip) {
    case Grip::body:
        return "move";
    case Grip::size:
        return "size";
    case Grip::turn:
        return "turn";
    case Grip::point:
        return "move the point; onto its neighbour takes it away";
    case Grip::between:
        return "pull a new point out of the edge";
    }
    return "";
}

static glm::dvec2 shift_of(const World& w, const Sprite& s, const Camera& camera) {
    return shift_of(w.layers[static_cast<std::size_t>(s.layer)], camera);
}

Occluder shape_of(const World& w, const Piece& p, const Camera& camera) {
    Occluder out;
    if (!holds(w, p)) return out;
    if (p.kind == PieceKind::wall) return outline_of(w, *w.wall(p.id));
    const Sprite& s = *w.sprite(p.id);
    const glm::dvec2 half = half_size(w, s), shift = shift_of(w, s, camera);
    for (const glm::dvec2& corner : {glm::dvec2(-1, -1), {1, -1}, {1, 1}, {-1, 1}})
        out.points.push_back(placed(s, corner * half) + shift);
    return out;
}

std::vector<PieceGrip> grips_of(const World& w, const Piece& p, const Camera& camera, double pixel) {
    std::vector<PieceGrip> out;
    const Occluder shape = shape_of(w, p, camera);
    const auto count = static_cast<int>(shape.points.size());
    if (count == 0) return out;
    if (p.kind == PieceKind::sprite) {
        const glm::dvec2 middle = 0.5 * (shape.points[0] + shape.points[2]);
        const glm::dvec2 up = 0.5 * (shape.points[2] + shape.points[3]) - middle;
        const double length = std::max(glm::length(up), 1e-6);
        return {{Grip::size, 0, shape.points[2]}, {Grip::turn, 0, middle + up / length * (length + 26 * pixel)}};
    }
    for (int i = 0; i < count; ++i)
        out.push_back({Grip::point, i, shape.points[static_cast<std::size_t>(i)]});
    for (int i = 0; i < (shape.closed ? count : count - 1); ++i) {
        const glm::dvec2 &a = shape.points[static_cast<std::size_t>(i)],
                         &b = shape.points[static_cast<std::size_t>((i + 1) % count)];
        if (glm::length(b - a) > 28 * pixel) out.push_back({Grip::between, i, 0.5 * (a + b)});
    }
    return out;
}

static double distance_to(const Occluder& o, const glm::dvec2& p) {
    double nearest = 1e30;
    for (const Edge& e : edges_of({o})) {
        const glm::dvec2 d = e.b - e.a;
        const double t = glm::clamp(glm::dot(p - e.a, d) / glm::dot(d, d), 0.0, 1.0);
        nearest = std::min(nearest, glm::length(p - e.a - d * t));
    }
    return nearest;
}

/// True if the sprite covers the point; of pixels that are not there, its box does.
static bool covers(const World& w, const SceneAsset& asset, const Sprite& s, const glm::dvec2& local) {
    const glm::dvec2 half = half_size(w, s);
    if (std::abs(local.x) >= half.x || std::abs(local.y) >= half.y) return false;
    const Sheet& sheet = w.sheets[static_cast<std::size_t>(s.sheet)];
    const TextureImage& image = asset.images[static_cast<std::size_t>(sheet.image)];
    if (image.rgba.empty()) return true;
    const int x = s.cell % sheet.columns * sheet.cellWidth + static_cast<int>(local.x + half.x),
              y = s.cell / sheet.columns * sheet.cellHeight + static_cast<int>(half.y - local.y);
    return image.rgba[4 * (static_cast<std::size_t>(std::min(y, image.height - 1)) *
                               static_cast<std::size_t>(image.width) +
                           static_cast<std::size_t>(std::min(x, image.width - 1))) +
                      3] > 127;
}

Piece piece_at(const World& w, const SceneAsset& asset, const View& view, const glm::dvec2& point, double near,
               bool walls, const std::vector<Piece>& behind) {
    const auto passed = [&](const Piece& p) { return std::find(behind.begin(), behind.end(), p) != behind.end(); };
    Piece best;
    double nearest = near;
    for (const Wall& wall : w.walls)
        if (const Piece p{PieceKind::wall, wall.id}; walls && !passed(p))
            if (const double d = distance_to(outline_of(w, wall), point); d < nearest) {
                nearest = d;
                best = p;
            }
    if (!best.none()) return best;
    int layer = -1;
    for (const Sprite& s : w.sprites) {
        const Piece p{PieceKind::sprite, s.id};
        if (s.hidden || s.layer < layer || passed(p)) continue;
        if (!covers(w, asset, s, local_to(s, point - shift_of(w, s, view.camera)))) continue;
        best = p;
        layer = s.layer;
    }
    return best;
}

World dragged(const World& start, const Piece& piece, const PieceGrip& grip, const Camera& camera,
              const glm::dvec2& from, const glm::dvec2& to, bool step) {
    World w = start;
    const auto stepped = [&](const glm::dvec2& p) { return step ? glm::round(p) : p; };
    if (piece.kind == PieceKind::sprite) {
        const auto s =
            std::find_if(w.sprites.begin(), w.sprites.end(), [&](const Sprite& x) { return x.id == piece.id; });
        if (s == w.sprites.end()) return w;
        const glm::dvec2 middle = glm::dvec2(s->place) + shift_of(w, *s, camera), a = from - middle, b = to - middle;
        if (grip.kind == Grip::body)
            s->place = stepped(glm::dvec2(s->place) + to - from);
        else if (grip.kind == Grip::size) {
            double factor = glm::length(b) / std::max(1e-6, glm::length(a));
            if (step) factor = std::max(0.25, std::round(factor * double(s->scale.x) * 4) / 4 / double(s->scale.x));
            s->scale *= static_cast<float>(glm::clamp(factor, 0.02, 50.0));
        } else if (glm::length(b) > 1e-6) {
            const double quarter = glm::pi<double>() / 12,
                         turn = double(s->turn) + std::atan2(b.y, b.x) - std::atan2(a.y, a.x);
            s->turn = static_cast<float>(
                std::remainder(step ? std::round(turn / quarter) * quarter : turn, glm::two_pi<double>()));
        }
        return w;
    }
    const auto wall = std::find_if(w.walls.begin(), w.walls.end(), [&](const Wall& x) { return x.id == piece.id; });
    if (wall == w.walls.end()) return w;
    const Sprite* on = w.sprite(wall->sprite);
    const auto own = [&](const glm::dvec2& p) { return on ? local_to(*on, p) : p; };
    std::vector<glm::dvec2>& points = wall->outline.points;
    if (grip.kind == Grip::between) {
        const auto at = static_cast<std::size_t>(grip.index);
        points.insert(points.begin() + static_cast<long>(at) + 1, own(stepped(to)));
    } else if (grip.kind == Grip::point)
        points[static_cast<std::size_t>(grip.index)] = own(stepped(to));
    else
        for (glm::dvec2& p : points)
            p += own(stepped(to)) - own(stepped(from));
    return w;
}

bool merge_point(World& world, const Piece& piece, int index, double near) {
    for (Wall& wall : world.walls) {
        if (piece.kind != PieceKind::wall || wall.id != piece.id) continue;
        std::vector<glm::dvec2>& points = wall.outline.points;
        const auto count = static_cast<int>(points.size());
        if (count <= (wall.outline.closed ? 3 : 2)) return false;
        const Occluder stands = outline_of(world, wall);
        for (const int beside : {index - 1, index + 1}) {
            if (!wall.outline.closed && (beside < 0 || beside >= count)) continue;
            if (glm::length(stands.points[static_cast<std::size_t>((beside + count) % count)] -
                            stands.points[static_cast<std::size_t>(index)]) > near)
                continue;
            points.erase(points.begin() + index);
            return true;
        }
    }
    return false;
}

template <class T>
static int unused_id(const std::vector<T>& list) {
    int id = 1;
    for (const T& item : list)
        id = std::max(id, item.id + 1);
    return id;
}

Piece duplicate(World& w, const Piece& piece, const glm::vec2& by) {
    if (piece.kind == PieceKind::sprite && w.sprite(piece.id)) {
        Sprite copy = *w.sprite(piece.id);
        copy.id = unused_id(w.sprites);
        copy.name += " copy";
        copy.place += by;
        w.sprites.push_back(copy);
        // What goes with it goes with the copy, too.
        const std::vector<Wall> walls = w.walls;
        for (Wall wall : walls)
            if (wall.sprite == piece.id) {
                wall.id = unused_id(w.walls);
                wall.sprite = copy.id;
                w.walls.push_back(std::move(wall));
            }
        return {PieceKind::sprite, copy.id};
    }
    if (piece.kind == PieceKind::wall && w.wall(piece.id)) {
        Wall copy = *w.wall(piece.id);
        copy.outline = outline_of(w, copy);
        copy.id = unused_id(w.walls);
        copy.name += " copy";
        copy.sprite = -1;
        for (glm::dvec2& p : copy.outline.points)
            p += glm::dvec2(by);
        w.walls.push_back(copy);
        return {PieceKind::wall, copy.id};
    }
    return {};
}

void erase(World& w, const Piece& piece) {
    if (piece.kind == PieceKind::sprite) {
        std::erase_if(w.sprites, [&](const Sprite& s) { return s.id == piece.id; });
        std::erase_if(w.walls, [&](const Wall& x) { return x.sprite == piece.id; });
    } else
        std::erase_if(w.walls, [&](const Wall& x) { return x.id == piece.id; });
}

Piece add_wall(World& w, const glm::dvec2& middle, double side) {
    Wall wall;
    wall.id = unused_id(w.walls);
    wall.name = "wall " + std::to_string(wall.id);
    const double h = 0.5 * side;
    wall.outline.points = {middle + glm::dvec2(-h, -h), middle + glm::dvec2(h, -h), middle + glm::dvec2(h, h),
                           middle + glm::dvec2(-h, h)};
    w.walls.push_back(wall);
    return {PieceKind::wall, wall.id};
}

} // namespace mirolux::flat
