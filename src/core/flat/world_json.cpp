#include "core/flat/world_json.h"
#include <algorithm>

namespace mirolux::flat {

static Json to_array(const glm::dvec2& p) {
    return Json::array({p.x, p.y});
}

template <class List>
static int named(const JsonCursor& json, const List& list, const char* kind) {
    const std::string name = json.text();
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].name == name) return static_cast<int>(i);
    json.complain(std::string("there is no ") + kind + " named \"" + name + "\"");
}

Json to_json(const Sprite& s, const World& w) {
    const Sprite none;
    Json j = {{"id", s.id},
              {"name", s.name},
              {"layer", w.layers[static_cast<std::size_t>(s.layer)].name},
              {"sheet", w.sheets[static_cast<std::size_t>(s.sheet)].name},
              {"place", {s.place.x, s.place.y}}};
    if (s.cell != none.cell) j["cell"] = s.cell;
    if (s.cells != none.cells) j["cells"] = s.cells;
    if (s.rate != none.rate) j["rate"] = s.rate;
    if (s.turn != none.turn) j["turn"] = s.turn;
    if (s.scale != none.scale) j["scale"] = {s.scale.x, s.scale.y};
    if (s.tint != none.tint) j["tint"] = mirolux::to_array(s.tint);
    if (s.glow != none.glow) j["glow"] = s.glow;
    if (s.hidden) j["hidden"] = true;
    if (!s.receives) j["receives"] = false;
    return j;
}

Sprite sprite_from_json(const JsonCursor& j, const World& w) {
    Sprite s;
    s.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    s.name = j.text("name", "sprite " + std::to_string(s.id));
    s.layer = named(j["layer"], w.layers, "layer");
    s.sheet = named(j["sheet"], w.sheets, "sheet");
    const Sheet& sheet = w.sheets[static_cast<std::size_t>(s.sheet)];
    const auto cells = static_cast<std::uint64_t>(sheet.columns) * static_cast<std::uint64_t>(sheet.rows);
    s.cell = static_cast<int>(j.whole("cell", 0, cells - 1));
    s.cells = static_cast<int>(j.whole("cells", 1, cells));
    if (s.cells < 1 || static_cast<std::uint64_t>(s.cell) + static_cast<std::uint64_t>(s.cells) > cells)
        j.complain("shows cells " + std::to_string(s.cell) + " to " + std::to_string(s.cell + s.cells - 1) +
                   "; the sheet has " + std::to_string(cells));
    s.rate = static_cast<float>(j.number("rate", s.rate, 0.0, 1000.0));
    s.place = j["place"].vector<2>();
    s.turn = static_cast<float>(j.number("turn", 0.0, -1e4, 1e4));
    s.scale = j.vector<2>("scale", s.scale);
    if (s.scale.x == 0.0f || s.scale.y == 0.0f) j["scale"].complain("must not be 0");
    s.tint = j.vector<4>("tint", s.tint);
    for (int c = 0; c < 4; ++c)
        if (!(s.tint[c] >= 0.0f && s.tint[c] <= (c == 3 ? 1.0f : 100.0f)))
            j["tint"].complain("must lie between 0 and 100, its opacity between 0 and 1");
    s.glow = static_cast<float>(j.number("glow", s.glow, 0.0, 1000.0));
    s.hidden = j.flag("hidden", false);
    s.receives = j.flag("receives", true);
    return s;
}

Json to_json(const Wall& wall) {
    Json j = {{"id", wall.id}, {"name", wall.name}};
    j["points"] = Json::array();
    for (const glm::dvec2& p : wall.outline.points)
        j["points"].push_back(to_array(p));
    if (!wall.outline.closed) j["closed"] = false;
    if (wall.sprite >= 0) j["sprite"] = wall.sprite;
    if (!wall.casts) j["casts"] = false;
    const Wall none;
    if (wall.height != none.height) j["height"] = wall.height;
    if (wall.emits != none.emits) j["emits"] = mirolux::to_array(wall.emits);
    if (wall.reflects != none.reflects) j["reflects"] = mirolux::to_array(wall.reflects);
    return j;
}

void take_matter(Wall& wall, const JsonCursor& j) {
    wall.height = static_cast<float>(j.number("height", 0.0, 0.0, 1e5));
    wall.emits = j.vector<3>("emits", wall.emits);
    wall.reflects = j.vector<3>("reflects", wall.reflects);
    for (int c = 0; c < 3; ++c) {
        if (!(wall.emits[c] >= 0.0f && wall.emits[c] <= 1000.0f)) j["emits"].complain("must lie between 0 and 1000");
        if (!(wall.reflects[c] >= 0.0f && wall.reflects[c] <= 1.0f)) j["reflects"].complain("must lie between 0 and 1");
    }
}

Wall wall_from_json(const JsonCursor& j, const World& w) {
    Wall wall;
    wall.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    wall.name = j.text("name", "wall " + std::to_string(wall.id));
    const JsonCursor points = j["points"];
    if (points.size() < 2) points.complain("needs two points or more");
    if (points.size() > most_points)
        points.complain("has " + std::to_string(points.size()) + " points; all outlines together may have " +
                            std::to_string(most_points),
                        "Simplify the outline, or trace it with a larger tolerance.");
    for (std::size_t i = 0; i < points.size(); ++i)
        wall.outline.points.emplace_back(points.at(i).vector<2>());
    wall.outline.closed = j.flag("closed", true);
    if (j.has("sprite")) {
        wall.sprite = static_cast<int>(j["sprite"].whole(0x7FFFFFFF));
        if (!w.sprite(wall.sprite)) j["sprite"].complain("there is no sprite " + std::to_string(wall.sprite));
    }
    wall.casts = j.flag("casts", true);
    take_matter(wall, j);
    if (crosses_itself(wall.outline))
        points.complain("the outline \"" + wall.name + "\" crosses itself", "Put its points in order around it.");
    return wall;
}

/// Of things with ids: those of `to` that `from` has otherwise or not, and ids of those that only `from` has.
template <class T, class Convert>
static void list_changes(const std::vector<T>& from, const std::vector<T>& to, const char* key, const char* goneKey,
                         Convert&& convert, Json& out) {
    const auto of = [](const std::vector<T>& list, int id) {
        return std::find_if(list.begin(), list.end(), [&](const T& item) { return item.id == id; });
    };
    for (const T& item : to)
        if (const auto it = of(from, item.id); it == from.end() || !(*it == item)) out[key].push_back(convert(item));
    for (const T& item : from)
        if (of(to, item.id) == to.end()) out[goneKey].push_back(item.id);
}

Json changes(const World& from, const World& to) {
    Json out;
    if (&from == &to) return out;
    list_changes(
        from.sprites, to.sprites, "sprites", "goneSprites", [&](const Sprite& s) { return to_json(s, to); }, out);
    list_changes(
        from.walls, to.walls, "walls", "goneWalls", [](const Wall& w) { return to_json(w); }, out);
    return out;
}

template <class T, class Read>
static void take_changes(std::vector<T>& list, const JsonCursor& json, const char* key, const char* goneKey,
                         Read&& read) {
    const JsonCursor gone = json.list(goneKey), items = json.list(key);
    for (std::size_t i = 0; i < gone.size(); ++i) {
        const int id = static_cast<int>(gone.at(i).whole(0x7FFFFFFF));
        std::erase_if(list, [&](const T& item) { return item.id == id; });
    }
    for (std::size_t i = 0; i < items.size(); ++i) {
        T item = read(items.at(i));
        const auto it = std::find_if(list.begin(), list.end(), [&](const T& old) { return old.id == item.id; });
        if (it != list.end())
            *it = std::move(item);
        else
            list.push_back(std::move(item));
    }
}

World changed(const World& from, const JsonCursor& json) {
    World out = from;
    take_changes(out.sprites, json, "sprites", "goneSprites",
                 [&](const JsonCursor& j) { return sprite_from_json(j, out); });
    take_changes(out.walls, json, "walls", "goneWalls", [&](const JsonCursor& j) { return wall_from_json(j, out); });
    std::erase_if(out.walls, [&](const Wall& w) { return w.sprite >= 0 && !out.sprite(w.sprite); });
    return out;
}

} // namespace mirolux::flat
