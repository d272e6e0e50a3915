#include "core/scene/object_edit.h"
#include "core/motion/body_bounds.h"
#include "core/scene/geometry.h"
#include <algorithm>
#include <cctype>
#include <optional>
#include <sstream>
#include <unordered_map>
#include <unordered_set>

namespace mirolux {

const char* word(Casting casting) {
    switch (casting) {
    case Casting::front:
        return "front";
    case Casting::no:
        return "no";
    case Casting::unseen:
        return "unseen";
    case Casting::proxied:
        return "proxied";
    default:
        return "yes";
    }
}

const char* word(Standing standing) {
    return standing == Standing::still ? "still" : standing == Standing::moving ? "moving" : "found";
}

bool ObjectEdit::idle() const {
    return !proxy && standing == Standing::found && !hidden && casts == Casting::yes && receives && mapDetail == 1 &&
           translation == glm::vec3(0.0f) && scale == glm::vec3(1.0f) && rotation == glm::quat(1.0f, 0.0f, 0.0f, 0.0f);
}

glm::mat4 matrix_of(const ObjectEdit& e) {
    glm::mat4 m = glm::mat4_cast(e.rotation);
    for (int k = 0; k < 3; ++k)
        m[k] *= e.scale[k];
    m[3] = glm::vec4(e.translation, 1.0f);
    return m;
}

ObjectEdit placed_by(const ObjectEdit& edit, const Placement& p) {
    ObjectEdit out = edit;
    const bool turned = p.turn != glm::quat(1.0f, 0.0f, 0.0f, 0.0f);
    if (turned) out.rotation = glm::normalize(p.turn * edit.rotation);
    out.scale = glm::clamp(edit.scale * p.size, glm::vec3(1e-3f), glm::vec3(1e3f));
    if (turned || p.size != 1.0f)
        out.translation = p.pivot + p.turn * (p.size * (edit.translation - p.pivot)) + p.move;
    else // a move alone: nothing is lost in sums with the pivot
        out.translation = edit.translation + p.move;
    return out;
}

ObjectEdit sized_by(const ObjectEdit& edit, const glm::vec3& factors, const glm::vec3& pivot) {
    ObjectEdit out = edit;
    out.scale = glm::clamp(edit.scale * factors, glm::vec3(1e-3f), glm::vec3(1e3f));
    // The pivot, in the file's place of the object, stays where it is.
    const glm::vec3 rest = glm::inverse(edit.rotation) * (pivot - edit.translation) / edit.scale;
    out.translation = pivot - out.rotation * (out.scale * rest);
    return out;
}

EditChanges changes_between(const std::vector<ObjectEdit>& from, const std::vector<ObjectEdit>& to) {
    EditChanges out;
    auto old = from.begin();
    for (const ObjectEdit& e : to) {
        while (old != from.end() && old->id < e.id)
            out.gone.push_back(&*old++);
        const bool there = old != from.end() && old->id == e.id;
        if (!there || !(*old == e)) out.set.push_back(&e);
        if (there) ++old;
    }
    for (; old != from.end(); ++old)
        out.gone.push_back(&*old);
    return out;
}

namespace {

/// An object of the file as an edit leaves it.
Object object_by(const SceneAsset& asset, std::size_t object, const ObjectEdit& e) {
    Object o = asset.objects[object];
    if (!ObjectEdit{{}, {}, e.translation, e.rotation, e.scale}.idle()) {
        o.transform = matrix_of(e) * o.transform;
        o.bounds = bounds_in(asset, o, asset.rig ? asset.rig->rest.get() : nullptr);
    }
    o.hidden = e.hidden;
    o.casts = e.casts;
    o.receives = e.receives;
    o.mapDetail = e.mapDetail;
    return o;
}

/// Objects of the asset with all edits, each found by its id.
std::vector<Object> all_edited(const SceneAsset& asset, const std::vector<ObjectEdit>& edits) {
    std::vector<Object> objects = asset.objects;
    std::unordered_map<std::string, const ObjectEdit*> wanted;
    for (const ObjectEdit& e : edits)
        if (!e.proxy) wanted[e.id] = &e;
    std::size_t found = 0;
    for (std::size_t i = 0; i < asset.objectNames.size() && i < objects.size() && found < wanted.size(); ++i) {
        const auto it = wanted.find(asset.objectNames[i].id);
        if (it == wanted.end() || !it->second) continue;
        objects[i] = object_by(asset, i, *it->second);
        it->second = nullptr;
        ++found;
    }
    return objects;
}

/// The same from objects with other edits; none where so much differs that it would not be quicker.
std::optional<std::vector<Object>> newly_edited(const SceneAsset& asset, const std::vector<ObjectEdit>& edits,
                                                const PlacedObjects& before) {
    const EditChanges changes = changes_between(before.edits, edits);
    if (changes.set.size() + changes.gone.size() > 16 || before.pose) return std::nullopt;
    std::vector<Object> objects(before.objects.begin(),
                                before.objects.begin() + static_cast<std::ptrdiff_t>(asset.objects.size()));
    const auto each = [&](const ObjectEdit& e, bool gone) {
        if (e.proxy) return;
        for (std::size_t i = 0; i < asset.objectNames.size() && i < objects.size(); ++i)
            if (asset.objectNames[i].id == e.id) {
                objects[i] = gone ? asset.objects[i] : object_by(asset, i, e);
                return;
            }
    };
    for (const ObjectEdit* e : changes.gone)
        each(*e, true);
    for (const ObjectEdit* e : changes.set)
        each(*e, false);
    return objects;
}

bool in_order(const std::vector<ObjectEdit>& edits) {
    return std::is_sorted(edits.begin(), edits.end(),
                          [](const ObjectEdit& a, const ObjectEdit& b) { return a.id < b.id; });
}

} // namespace

std::shared_ptr<const PlacedObjects> place_objects(const SceneAsset& asset, EditList edits,
                                                   const PlacedObjects* before) {
    if (edits.empty()) return nullptr;
    auto out = std::make_shared<PlacedObjects>();
    std::optional<std::vector<Object>> quick;
    if (before && in_order(before->edits) && in_order(edits)) quick = newly_edited(asset, edits, *before);
    out->objects = quick ? std::move(*quick) : all_edited(asset, edits);
    out->edits = std::move(edits);
    for (const Object& o : out->objects)
        if (!o.hidden) out->bounds.add(o.bounds);
    for (const ObjectEdit& e : out->edits) {
        if (!e.proxy || asset.proxyBox < 0) continue;
        Object o;
        o.primitive = asset.proxyBox;
        o.transform = matrix_of(e);
        o.bounds = transformed(asset.primitives[static_cast<std::size_t>(o.primitive)].bounds, o.transform);
        o.hidden = e.hidden;
        o.casts = Casting::unseen;
        o.proxy = true;
        out->objects.push_back(o);
    }
    return out;
}

void add_proxy_box(SceneAsset& asset) {
    Primitive p;
    for (int k = 0; k < 3; ++k)
        for (const float side : {-0.5f, 0.5f}) {
            glm::vec3 n(0.0f), u(0.0f);
            n[k] = 2 * side;
            u[(k + 1) % 3] = 1;
            const glm::vec3 v = glm::cross(n, u);
            const auto first = static_cast<std::uint32_t>(p.vertices.size());
            for (const auto& [a, b] : {std::pair(-0.5f, -0.5f), {0.5f, -0.5f}, {0.5f, 0.5f}, {-0.5f, 0.5f}}) {
                Vertex x;
                x.position = 0.5f * n + a * u + b * v;
                x.normal = n;
                x.tangent = glm::vec4(u, 1);
                p.vertices.push_back(x);
                p.bounds.add(x.position);
            }
            for (const std::uint32_t i : {0u, 1u, 2u, 0u, 2u, 3u})
                p.indices.push_back(first + i);
        }
    asset.proxyBox = static_cast<int>(asset.primitives.size());
    asset.primitives.push_back(std::move(p));
}

/// The proxy of this place among them; null: there is none.
static const ObjectEdit* proxy_of(const SceneAsset& asset, const std::vector<ObjectEdit>& edits, int object) {
    auto left = object - static_cast<int>(asset.objects.size());
    if (left < 0) return nullptr;
    for (const ObjectEdit& e : edits)
        if (e.proxy && left-- == 0) return &e;
    return nullptr;
}

std::vector<int> objects_named(const Scene& scene, const std::string& list) {
    std::vector<std::string> wanted;
    std::stringstream text(list);
    for (std::string name; std::getline(text, name, ',');) {
        const auto from = name.find_first_not_of(' '), to = name.find_last_not_of(' ');
        if (from != std::string::npos) wanted.push_back(name.substr(from, to - from + 1));
    }
    std::vector<int> out;
    if (wanted.empty()) return out;
    for (int o = 0; o < static_cast<int>(scene.objects().size()); ++o) {
        const ObjectName name = object_name(scene, o);
        if (std::any_of(wanted.begin(), wanted.end(), [&](const std::string& w) {
                return w == name.name || w == name.id ||
                       (w.find_first_of("*?") != std::string::npos && name_matches(name.name, w));
            }))
            out.push_back(o);
    }
    return out;
}

ObjectName object_name(const SceneAsset& asset, const std::vector<ObjectEdit>& edits, int object) {
    if (object < 0) return {};
    if (static_cast<std::size_t>(object) < asset.objects.size())
        return static_cast<std::size_t>(object) < asset.objectNames.size()
                   ? asset.objectNames[static_cast<std::size_t>(object)]
                   : ObjectName{};
    const ObjectEdit* e = proxy_of(asset, edits, object);
    return e ? ObjectName{e->id, e->name, -1} : ObjectName{};
}

Box box_before_edit(const SceneAsset& asset, int object) {
    const auto o = static_cast<std::size_t>(object);
    return o < asset.objects.size() ? asset.objects[o].bounds : Box{glm::vec3(-0.5f), glm::vec3(0.5f)};
}

std::vector<std::string> lost_objects(const std::vector<ObjectEdit>& edits, const SceneAsset& asset) {
    if (edits.empty()) return {};
    std::unordered_set<std::string> there;
    for (const ObjectName& n : asset.objectNames)
        there.insert(n.id);
    std::vector<std::string> out;
    for (const ObjectEdit& e : edits)
        if (!e.proxy && !there.count(e.id)) out.push_back(e.name.empty() ? e.id : e.name);
    return out;
}

ObjectEdit edit_of(const std::vector<ObjectEdit>& edits, const SceneAsset& asset, int object) {
    if (const ObjectEdit* proxy = proxy_of(asset, edits, object)) return *proxy;
    const ObjectName& name = asset.objectNames[static_cast<std::size_t>(object)];
    const auto it = std::lower_bound(edits.begin(), edits.end(), name.id,
                                     [](const ObjectEdit& e, const std::string& id) { return e.id < id; });
    if (it != edits.end() && it->id == name.id) return *it;
    return {name.id, name.name};
}

void take_edits(std::vector<ObjectEdit>& list, const std::vector<ObjectEdit>& changed) {
    const auto before = [](const ObjectEdit& a, const ObjectEdit& b) { return a.id < b.id; };
    std::vector<ObjectEdit> sorted;
    const std::vector<ObjectEdit>* news = &changed;
    if (!std::is_sorted(changed.begin(), changed.end(), before)) {
        sorted = changed;
        std::stable_sort(sorted.begin(), sorted.end(), before);
        news = &sorted;
    }
    std::vector<ObjectEdit> out;
    out.reserve(list.size() + news->size());
    auto old = list.begin();
    for (auto n = news->begin(); n != news->end(); ++n) {
        while (old != list.end() && old->id < n->id)
            out.push_back(std::move(*old++));
        if (old != list.end() && old->id == n->id) ++old;
        if (n + 1 != news->end() && (n + 1)->id == n->id) continue; // the last of them holds
        if (!n->idle()) out.push_back(*n);
    }
    std::move(old, list.end(), std::back_inserter(out));
    list = std::move(out);
}

void take_edits(EditList& list, const std::vector<ObjectEdit>& changed) {
    list.change([&](std::vector<ObjectEdit>& edits) { take_edits(edits, changed); });
}

bool name_matches(const std::string& name, const std::string& pattern) {
    const auto lower = [](char c) { return std::tolower(static_cast<unsigned char>(c)); };
    if (pattern.find_first_of("*?") == std::string::npos)
        return std::search(name.begin(), name.end(), pattern.begin(), pattern.end(),
                           [&](char a, char b) { return lower(a) == lower(b); }) != name.end();
    // Greedy with one place to come back to: linear but for patterns of many stars.
    std::size_t n = 0, p = 0, star = std::string::npos, back = 0;
    while (n < name.size()) {
        if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            back = n;
        } else if (p < pattern.size() && (pattern[p] == '?' || lower(pattern[p]) == lower(name[n]))) {
            ++p;
            ++n;
        } else if (star != std::string::npos) {
            p = star + 1;
            n = ++back;
        } else
            return false;
    }
    while (p < pattern.size() && pattern[p] == '*')
        ++p;
    return p == pattern.size();
}

std::vector<int> objects_like(const SceneAsset& asset, const std::string& pattern) {
    std::vector<int> out;
    for (std::size_t i = 0; i < asset.objectNames.size(); ++i)
        if (name_matches(asset.objectNames[i].name, pattern) || name_matches(asset.objectNames[i].id, pattern))
            out.push_back(static_cast<int>(i));
    return out;
}

const std::vector<Object>& Scene::objects() const {
    return placed ? placed->objects : asset->objects;
}
const Box& Scene::bounds() const {
    return placed ? placed->bounds : asset->bounds;
}

} // namespace mirolux
