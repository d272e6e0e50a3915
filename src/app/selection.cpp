#include "app/selection.h"
#include "app/document.h"
#include <unordered_map>
#include <unordered_set>

namespace mirolux::app {

Selection::Selection(Document& document, QObject* parent) : QObject(parent), document_(document) {
    connect(&document_, &Document::opened, this, &Selection::clear);
    connect(&document_, &Document::changed, this, &Selection::drop_what_is_gone);
    connect(&document_, &Document::reloaded, this, &Selection::keep_ids);
    connect(&document_, &Document::rebuilt, this, &Selection::keep_ids);
}

bool Selection::has_light(int id) const {
    return std::find(lights_.begin(), lights_.end(), id) != lights_.end();
}
bool Selection::has_object(int object) const {
    return std::find(objects_.begin(), objects_.end(), object) != objects_.end();
}

/// Each once, where it came first.
static void once(std::vector<int>& list) {
    std::unordered_set<int> seen;
    std::erase_if(list, [&](int i) { return !seen.insert(i).second; });
}

void Selection::set(std::vector<int> lights, std::vector<int> objects) {
    std::erase_if(lights, [&](int id) { return !document_.light(id); });
    const int count = document_.object_count();
    std::erase_if(objects, [&](int o) { return o < 0 || o >= count; });
    once(lights);
    once(objects);
    const flat::Piece piece = std::exchange(piece_, {});
    if (lights == lights_ && objects == objects_) {
        if (!piece.none()) emit changed();
        return;
    }
    lights_ = std::move(lights);
    objects_ = std::move(objects);
    ids_.clear();
    for (const int o : objects_)
        ids_.push_back(document_.object_name(o).id);
    emit changed();
}

void Selection::set_cheap(int id) {
    if (!document_.cheap_light(id)) id = -1;
    if (std::exchange(cheap_, id) != id) emit changed();
}

void Selection::set_cloud(int id) {
    if (!document_.cloud(id)) id = -1;
    if (std::exchange(cloud_, id) != id) emit cloud_changed();
}

void Selection::set_probe(int id) {
    if (!document_.probe(id)) id = -1;
    if (std::exchange(probe_, id) != id) emit probe_changed();
}

void Selection::set_piece(const flat::Piece& piece) {
    const flat::WorldPtr& world = document_.project().flat;
    const flat::Piece wanted = world && flat::holds(*world, piece) ? piece : flat::Piece{};
    if (std::exchange(piece_, wanted) == wanted) return;
    if (!wanted.none()) {
        lights_.clear();
        objects_.clear();
        ids_.clear();
    }
    emit changed();
}

void Selection::toggle(const std::vector<int>& lights, const std::vector<int>& objects) {
    const bool all = std::all_of(lights.begin(), lights.end(), [&](int id) { return has_light(id); }) &&
                     std::all_of(objects.begin(), objects.end(), [&](int o) { return has_object(o); });
    const auto joined = [all](std::vector<int> to, const std::vector<int>& with) {
        const std::unordered_set<int> named(with.begin(), with.end());
        std::erase_if(to, [&](int i) { return named.count(i) > 0; });
        if (!all) to.insert(to.end(), with.begin(), with.end());
        return to;
    };
    set(joined(lights_, lights), joined(objects_, objects));
}

void Selection::drop_what_is_gone() {
    set_cheap(cheap_);
    set_cloud(cloud_);
    set_probe(probe_);
    set_piece(piece_);
    // Proxies come and go, and their numbers with them.
    for (std::size_t i = 0; i < objects_.size(); ++i)
        if (objects_[i] >= document_.object_count() || document_.object_name(objects_[i]).id != ids_[i])
            return keep_ids();
    if (std::all_of(lights_.begin(), lights_.end(), [&](int id) { return document_.light(id); })) return;
    set(lights_, objects_);
}

void Selection::keep_ids() {
    std::unordered_map<std::string, int> numbers;
    for (int o = 0; o < document_.object_count(); ++o)
        numbers.emplace(document_.object_name(o).id, o);
    std::vector<int> objects;
    for (const std::string& id : ids_)
        if (const auto it = numbers.find(id); it != numbers.end()) objects.push_back(it->second);
    set(lights_, std::move(objects));
}

} // namespace mirolux::app
