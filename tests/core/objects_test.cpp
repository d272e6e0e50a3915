#include "core/cost/changes.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/rays/ray_scene.h"
#include "core/scene/place_handles.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <glm/gtc/matrix_transform.hpp>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// A plate of two triangles for each node, with as many parts as it says.
nlohmann::json plates(const std::vector<std::pair<std::string, int>>& nodes) {
    std::string bytes;
    for (const float v : {-1.f, 0.f, -1.f, 1.f, 0.f, -1.f, -1.f, 0.f, 1.f, 1.f, 0.f, 1.f})
        bytes.append(reinterpret_cast<const char*>(&v), 4);
    for (const std::uint16_t i : {0, 2, 1, 1, 2, 3})
        bytes.append(reinterpret_cast<const char*>(&i), 2);
    const QByteArray data = QByteArray::fromStdString(bytes).toBase64();
    nlohmann::json d = {
        {"asset", {{"version", "2.0"}}},
        {"accessors",
         {{{"bufferView", 0},
           {"componentType", 5126},
           {"count", 4},
           {"type", "VEC3"},
           {"min", {-1, 0, -1}},
           {"max", {1, 0, 1}}},
          {{"bufferView", 1}, {"componentType", 5123}, {"count", 6}, {"type", "SCALAR"}}}},
        {"bufferViews",
         {{{"buffer", 0}, {"byteOffset", 0}, {"byteLength", 48}},
          {{"buffer", 0}, {"byteOffset", 48}, {"byteLength", 12}}}},
        {"buffers", {{{"byteLength", 60}, {"uri", "data:application/octet-stream;base64," + data.toStdString()}}}},
        {"meshes", nlohmann::json::array()},
        {"nodes", nlohmann::json::array()}};
    const nlohmann::json part = {{"attributes", {{"POSITION", 0}}}, {"indices", 1}};
    for (const auto& [name, parts] : nodes) {
        nlohmann::json primitives = nlohmann::json::array();
        for (int i = 0; i < parts; ++i)
            primitives.push_back(part);
        nlohmann::json node = {{"mesh", d["meshes"].size()}};
        if (!name.empty()) node["name"] = name;
        d["meshes"].push_back({{"primitives", primitives}});
        d["nodes"].push_back(node);
    }
    return d;
}

std::vector<std::string> ids_of(const SceneAsset& asset) {
    std::vector<std::string> out;
    for (const ObjectName& n : asset.objectNames)
        out.push_back(n.id);
    return out;
}

glm::mat4 about(const glm::vec3& pivot, const glm::mat4& m) {
    return glm::translate(glm::mat4(1.0f), pivot) * m * glm::translate(glm::mat4(1.0f), -pivot);
}

double largest(const glm::mat4& a, const glm::mat4& b) {
    double worst = 0;
    for (int c = 0; c < 4; ++c)
        for (int r = 0; r < 4; ++r)
            worst = std::max(worst, double(std::abs(a[c][r] - b[c][r])));
    return worst;
}

ObjectEdit random_edit(std::mt19937& r) {
    ObjectEdit e{"id", "name"};
    e.translation = {random_in(r, -5, 5), random_in(r, -5, 5), random_in(r, -5, 5)};
    e.rotation =
        glm::normalize(glm::quat(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, 0.1f, 1)));
    e.scale = {random_in(r, 0.3f, 3), random_in(r, 0.3f, 3), random_in(r, 0.3f, 3)};
    return e;
}

/// Every triangle of every object, in double, by the rules that ray_scene.h states.
RayHit brute_force(const Scene& scene, const Ray& ray, float from) {
    RayHit best;
    double nearest = 1e30;
    const glm::dvec3 origin(ray.origin), d(ray.direction);
    for (std::size_t o = 0; o < scene.objects().size(); ++o) {
        const Object& object = scene.objects()[o];
        if (object.hidden) continue;
        const Primitive& p = scene.asset->primitives[static_cast<std::size_t>(object.primitive)];
        const mirolux::Material& m = scene.asset->material_of(object);
        for (std::uint32_t t = 0; t < p.indices.size() / 3; ++t) {
            glm::dvec3 c[3];
            for (std::uint32_t k = 0; k < 3; ++k)
                c[k] = glm::dvec3(glm::dmat4(object.transform) *
                                  glm::dvec4(p.vertices[p.indices[3 * t + k]].position, 1.0));
            const glm::dmat3 system(c[1] - c[0], c[2] - c[0], -d);
            if (std::abs(glm::determinant(system)) < 1e-14) continue;
            const glm::dvec3 x = glm::inverse(system) * (origin - c[0]);
            if (x.x < 0 || x.y < 0 || x.x + x.y > 1 || x.z <= from || x.z >= nearest) continue;
            const bool front = (glm::dot(glm::cross(c[1] - c[0], c[2] - c[0]), d) < 0) != object.mirrored;
            if (!m.doubleSided && !front) continue;
            const float alpha = surface_alpha(*scene.asset, p, t, static_cast<float>(x.x), static_cast<float>(x.y));
            if (m.alphaMode == AlphaMode::mask && alpha < m.alphaCutoff) continue;
            if (m.alphaMode == AlphaMode::blend && alpha < least_cover) continue;
            nearest = x.z;
            best.distance = static_cast<float>(x.z);
            best.object = static_cast<int>(o);
            best.triangle = t;
        }
    }
    return best;
}

} // namespace

class objects_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string file(const char* name) const { return folder_.filePath(name).toStdString(); }
    std::shared_ptr<const SceneAsset> imported(const nlohmann::json& document, const char* name = "plates.gltf") {
        if (!write_file_atomically(file(name), document.dump())) qFatal("not written");
        auto asset = import_gltf(file(name));
        if (!asset) qFatal("%s", to_text(asset.error()).c_str());
        return *asset;
    }

private slots:
    void ids_are_unique_and_last_when_nodes_are_put_in() {
        const auto a = imported(plates({{"crane", 2}, {"crane", 1}, {"", 1}, {"crane~2", 1}, {"quay", 1}}));
        const std::vector<std::string> wanted = {"crane", "crane#1", "crane~2", "node 2", "crane~2~2", "quay"};
        QVERIFY2(ids_of(*a) == wanted, qPrintable(QString::fromStdString(joined_ids(*a))));
        QCOMPARE(a->objectNames[0].node, a->objectNames[1].node); // parts of one thing
        const auto b = imported(plates({{"shed", 1}, {"crane", 2}, {"quay", 1}}));
        for (const char* id : {"crane", "crane#1", "quay"}) {
            const auto ids = ids_of(*b);
            QVERIFY(std::find(ids.begin(), ids.end(), id) != ids.end());
        }
    }

    /// Products of matrices are the oracle: an edit under a placement is the placement's matrix times the edit's.
    void placements_are_what_matrices_give() {
        std::mt19937 r(5);
        for (int i = 0; i < 200; ++i) {
            const ObjectEdit e = random_edit(r);
            Placement p;
            p.move = {random_in(r, -3, 3), random_in(r, -3, 3), random_in(r, -3, 3)};
            p.pivot = {random_in(r, -9, 9), random_in(r, -9, 9), random_in(r, -9, 9)};
            if (i % 3 > 0) p.turn = random_edit(r).rotation;
            if (i % 3 > 1) p.size = random_in(r, 0.5f, 2);
            const glm::mat4 change =
                glm::translate(glm::mat4(1.0f), p.move) *
                about(p.pivot, glm::mat4_cast(p.turn) * glm::scale(glm::mat4(1.0f), glm::vec3(p.size)));
            QVERIFY(largest(matrix_of(placed_by(e, p)), change * matrix_of(e)) < 2e-4);
            // Sized along its own axes: the pivot stays, and the axes' lengths take the factors.
            const glm::vec3 factors(random_in(r, 0.5f, 2), random_in(r, 0.5f, 2), random_in(r, 0.5f, 2));
            const glm::mat4 sized = matrix_of(sized_by(e, factors, p.pivot)), was = matrix_of(e);
            const glm::vec4 rest = glm::inverse(was) * glm::vec4(p.pivot, 1);
            QVERIFY(glm::length(glm::vec3(sized * rest) - p.pivot) < 2e-3f);
            for (int k = 0; k < 3; ++k)
                QVERIFY(glm::length(glm::vec3(sized[k]) - factors[k] * glm::vec3(was[k])) < 1e-4f);
        }
        ObjectEdit e{"a", "a"};
        QVERIFY(e.idle());
        const ObjectEdit there = placed_by(e, {{1, 2, 3}});
        QVERIFY(placed_by(there, {{-1, -2, -3}}).idle()); // back to the bit
    }

    void edits_place_hide_and_come_back_from_the_project_to_the_byte() {
        const auto asset = imported(plates({{"a", 1}, {"b", 2}, {"c", 1}}));
        auto open = open_project(file("plates.gltf"));
        QVERIFY(open.has_value());
        Project p = open->project;
        p.path = file("plates.mirolux");
        std::mt19937 r(8);
        ObjectEdit moved = random_edit(r);
        moved.id = "b#1";
        moved.name = "b";
        ObjectEdit hidden{"c", "c"};
        hidden.hidden = true;
        hidden.casts = Casting::unseen;
        moved.casts = Casting::no;
        take_edits(p.objects, {hidden, moved, {"a", "a"}}); // the last one changes nothing
        QCOMPARE(p.objects.size(), std::size_t(2));
        p.groups.push_back({"plates", {}, {"a", "b#1"}});
        QVERIFY(save_project(p, *asset, p.path).has_value());
        const auto bytes = read_file(p.path);
        auto again = open_project(p.path);
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QVERIFY(again->project.objects == p.objects && again->project.groups == p.groups);
        QVERIFY(again->warnings.empty());
        QVERIFY(save_project(again->project, *again->asset, p.path).has_value());
        QVERIFY(*read_file(p.path) == *bytes);
        const Scene scene = scene_of(*again);
        QVERIFY(scene.objects()[3].hidden && !scene.objects()[2].hidden);
        QVERIFY(largest(scene.objects()[2].transform, matrix_of(moved)) < 1e-6);
        QVERIFY(scene.objects()[0].transform == asset->objects[0].transform);
        Box box;
        for (const glm::vec3 corner :
             {glm::vec3(-1, 0, -1), glm::vec3(1, 0, -1), glm::vec3(-1, 0, 1), glm::vec3(1, 0, 1)})
            box.add(glm::vec3(matrix_of(moved) * glm::vec4(corner, 1)));
        QVERIFY(glm::length(box.low - scene.objects()[2].bounds.low) < 1e-4f);
        QVERIFY(glm::length(box.high - scene.objects()[2].bounds.high) < 1e-4f);
    }

    /// Placed anew from what was placed before, and placed from nothing: the same objects to the bit, whatever changed.
    void what_differs_alone_is_placed_anew() {
        const auto asset = imported(plates({{"a", 1}, {"b", 2}, {"c", 1}, {"d", 3}}));
        std::mt19937 r(31);
        std::vector<ObjectEdit> edits;
        std::shared_ptr<const PlacedObjects> before;
        int fewer = 0, proxies = 0;
        for (int step = 0; step < 400; ++step) {
            std::vector<ObjectEdit> changed;
            for (std::uint32_t n = 1 + r() % 3; n > 0; --n) {
                const std::uint32_t which = r() % 9;
                if (which == 8) {
                    changed.push_back({"nothing of this name", ""});
                    changed.back().hidden = true;
                } else if (which == 7) {
                    changed.push_back(random_edit(r));
                    changed.back().id = r() % 2 ? "proxy 1" : "aa proxy"; // before and after the objects of the file
                    changed.back().proxy = true;
                } else {
                    const ObjectName& name = asset->objectNames[which % asset->objectNames.size()];
                    ObjectEdit e = r() % 3 == 0 ? ObjectEdit{} : random_edit(r); // a third go back to the file's own
                    e.id = name.id, e.name = name.name;
                    e.hidden = r() % 4 == 0;
                    e.receives = r() % 4 != 0;
                    changed.push_back(e);
                }
            }
            if (step % 50 == 49) edits.clear(); // all at once
            const std::size_t count = edits.size();
            take_edits(edits, changed);
            fewer += edits.size() < count;
            const auto quick = place_objects(*asset, edits, before.get()), whole = place_objects(*asset, edits);
            QCOMPARE(quick == nullptr, whole == nullptr);
            before = quick;
            if (!whole) continue;
            proxies += static_cast<int>(whole->objects.size() - asset->objects.size());
            QVERIFY(quick->edits == whole->edits);
            QCOMPARE(quick->objects.size(), whole->objects.size());
            for (std::size_t o = 0; o < whole->objects.size(); ++o) {
                const Object &x = quick->objects[o], &y = whole->objects[o];
                QVERIFY2(x.transform == y.transform && x.bounds.low == y.bounds.low && x.bounds.high == y.bounds.high &&
                             x.hidden == y.hidden && x.receives == y.receives && x.casts == y.casts &&
                             x.proxy == y.proxy && x.primitive == y.primitive,
                         qPrintable(QString("step %1, object %2").arg(step).arg(o)));
            }
            QVERIFY(quick->bounds.low == whole->bounds.low && quick->bounds.high == whole->bounds.high);
        }
        QVERIFY(fewer > 20 && proxies > 100);
    }

    /// The scene file loses an edited object: it is named, its edit is kept, and takes effect when it returns.
    void objects_that_the_file_lost_keep_their_edits() {
        const auto with = imported(plates({{"a", 1}, {"b", 1}}));
        auto open = open_project(file("plates.gltf"));
        Project p = open->project;
        p.path = file("lost.mirolux");
        ObjectEdit moved{"b", "b"};
        moved.translation.y = 2;
        take_edits(p.objects, {moved});
        QVERIFY(save_project(p, *with, p.path).has_value());
        const auto without = imported(plates({{"a", 1}}));
        auto lost = open_project(p.path);
        QVERIFY(lost.has_value());
        QCOMPARE(lost->warnings.size(), std::size_t(1));
        QVERIFY2(
            lost->warnings[0].find("lost.mirolux#/objects: edits of objects that the scene file does not have: b") !=
                std::string::npos,
            lost->warnings[0].c_str());
        QVERIFY(lost->project.objects == p.objects);
        QVERIFY(save_project(lost->project, *without, p.path).has_value());
        std::vector<std::string> said;
        const Project rebase = rebased(p, *with, *without, said);
        QVERIFY(said == std::vector<std::string>{"b"});
        QVERIFY(rebase.objects == p.objects);
        imported(plates({{"b", 1}, {"a", 1}}));
        auto back = open_project(p.path);
        QVERIFY(back.has_value() && back->warnings.empty());
        QCOMPARE(scene_of(*back).objects()[0].transform[3].y, 2.0f);
    }

    void broken_edits_name_their_place() {
        imported(plates({{"a", 1}}));
        auto open = open_project(file("plates.gltf"));
        Project p = open->project;
        QVERIFY(save_project(p, *open->asset, file("broken.mirolux")).has_value());
        const auto text = *read_file(file("broken.mirolux"));
        const auto good = nlohmann::json::parse(text.begin(), text.end());
        const auto refused = [&](const nlohmann::json& edit, const char* where) {
            auto d = good;
            d["objects"] = {{{"id", "a"}}, edit};
            if (!write_file_atomically(file("broken.mirolux"), d.dump())) qFatal("not written");
            const auto r = open_project(file("broken.mirolux"));
            return !r && r.error().where.find(where) != std::string::npos;
        };
        QVERIFY(refused({{"name", "a"}}, "#/objects/1"));
        QVERIFY(refused({{"id", "a"}, {"scale", {1, 0, 1}}}, "#/objects/1/scale"));
        QVERIFY(refused({{"id", "a"}, {"rotation", {0, 0, 0, 0}}}, "#/objects/1/rotation"));
        QVERIFY(refused({{"id", "a"}, {"translation", {0, 0}}}, "#/objects/1/translation"));
    }

    /// Against the definition by recursion.
    void patterns_match_as_they_are_defined() {
        std::function<bool(const char*, const char*)> matches = [&](const char* n, const char* p) {
            if (!*p) return !*n;
            if (*p == '*') return matches(n, p + 1) || (*n && matches(n + 1, p));
            return *n && (*p == '?' || *p == *n) && matches(n + 1, p + 1);
        };
        std::mt19937 r(3);
        int hits = 0;
        for (int i = 0; i < 20000; ++i) {
            std::string name, pattern = "*";
            for (unsigned k = r() % 7; k-- > 0;)
                name += "ab"[r() % 2];
            for (unsigned k = r() % 6; k-- > 0;)
                pattern += "ab*?"[r() % 4];
            QCOMPARE(name_matches(name, pattern), matches(name.c_str(), pattern.c_str()));
            hits += name_matches(name, pattern);
        }
        QVERIFY(hits > 2000 && hits < 18000);
        QVERIFY(name_matches("Bollard 12", "lard") && name_matches("Bollard 12", "BOLL*") &&
                !name_matches("crane", "x"));
        QVERIFY(!name_matches(std::string(5000, 'a') + "b", "*a*a*a*a*a*a*c")); // and soon
    }

    void the_wire_carries_what_changed_only() {
        std::mt19937 r(2);
        std::vector<ObjectEdit> a, b;
        for (int i = 0; i < 50; ++i) {
            ObjectEdit e = random_edit(r);
            e.id = "object " + std::to_string(100 + i);
            a.push_back(e);
        }
        b = a;
        b[7].hidden = true;
        b.erase(b.begin() + 20);
        const Json patch = Json::from_cbor(Json::to_cbor(object_patch(a, b)));
        QCOMPARE(patch["set"].size(), std::size_t(1));
        QCOMPARE(patch["gone"].size(), std::size_t(1));
        std::vector<ObjectEdit> there = a;
        apply_object_patch(there, JsonCursor(patch));
        QVERIFY(there == b);
        QVERIFY(object_patch(b, b).is_null());
    }

    void changes_are_said_in_words() {
        State a, b;
        ObjectEdit moved{"crane", "crane"};
        moved.translation = {3, 4, 0};
        ObjectEdit gone{"quay", "quay"};
        gone.hidden = true;
        b.objects = {moved, gone};
        QVERIFY(describe_changes(a, b) == (std::vector<std::string>{"crane 5 m placed anew", "quay hidden"}));
        QVERIFY(describe_changes(b, a) == (std::vector<std::string>{"crane put back", "quay shown again"}));
        State c;
        ObjectEdit through{"crane", "crane"}, unseen{"quay", "quay"};
        through.casts = Casting::no;
        unseen.casts = Casting::unseen;
        c.objects = {through, unseen};
        QVERIFY(!through.idle() && !unseen.idle());
        QVERIFY(describe_changes(State(), c) ==
                (std::vector<std::string>{"crane casting no shadows", "quay unseen, casting shadows"}));
        QVERIFY(describe_changes(c, State()) == (std::vector<std::string>{"crane, quay casting shadows again"}));
    }

    /// Every handle, pulled along its own way on the screen: what it places stands under the pointer within half a
    /// pixel.
    void what_a_handle_places_follows_the_pointer() {
        std::mt19937 r(12);
        int arms = 0, sides = 0;
        for (int i = 0; i < 300; ++i) {
            View view = view_from({random_in(r, -12, 12), random_in(r, 1, 9), random_in(r, -12, 12)},
                                  {random_in(r, -1, 1), random_in(r, 0, 2), random_in(r, -1, 1)}, 1280, 720);
            Box box;
            box.add(glm::vec3(random_in(r, -2, 0), random_in(r, -2, 0), random_in(r, -2, 0)));
            box.add(box.low + glm::vec3(random_in(r, 0.3f, 3), random_in(r, 0.3f, 3), random_in(r, 0.3f, 3)));
            ObjectEdit e = random_edit(r);
            e.translation *= 0.2f;
            const PlaceFrame frame = frame_of(box, e);
            for (const PlacedHandle& h : handles_of(frame, view)) {
                const auto from = project(view, h.position);
                if (!from || from->x < 60 || from->y < 60 || from->x > 1220 || from->y > 660) continue;
                const auto ray = [&](const glm::vec2& p) { return ray_through(view, p.x, p.y); };
                const bool arm = h.kind >= PlaceHandle::axisX && h.kind <= PlaceHandle::axisZ,
                           side = h.kind >= PlaceHandle::sizeX;
                const auto center = project(view, frame.pivot);
                if (!center) continue;
                if (h.kind == PlaceHandle::ground) {
                    const float slope = glm::normalize(view.camera.eye - frame.pivot).y;
                    const glm::vec2 to = *from + glm::vec2(random_in(r, -40, 40), random_in(r, 0, 30));
                    if (std::abs(slope) < 0.2f || !on_plane(ray(to), frame.pivot, {0, 1, 0})) continue;
                    const PlaceFrame now =
                        frame_of(box, placed_by(e, dragged(frame, h.kind, view, ray(*from), ray(to))));
                    QVERIFY(glm::length(*project(view, now.pivot) - to) < 0.5f);
                } else if (arm || side) {
                    // The way of an arm in the picture; one that points at the eye has none.
                    const glm::vec2 way = *from - *center;
                    if (glm::length(way) < 25) continue;
                    const glm::vec2 to = *from + glm::normalize(way) * random_in(r, -15, 30);
                    const PlaceFrame now =
                        frame_of(box, placed_by(e, dragged(frame, h.kind, view, ray(*from), ray(to))));
                    const int k = int(h.kind) - int(PlaceHandle::sizeX);
                    const glm::vec3 held = arm ? h.position + now.pivot - frame.pivot : now.pivot + now.axes[k];
                    QVERIFY2(
                        glm::length(*project(view, held) - to) < 0.5f,
                        qPrintable(QString("%1: %2 px").arg(word(h.kind)).arg(glm::length(*project(view, held) - to))));
                    if (side) // the other side stands still
                        QVERIFY(glm::length((now.pivot - now.axes[k]) - (frame.pivot - frame.axes[k])) < 2e-3f);
                    ++(arm ? arms : sides);
                } else if (h.kind < PlaceHandle::size) { // a turn: by the angle between the rays' places on its plane
                    const glm::vec2 to = *from + glm::vec2(random_in(r, -20, 20), random_in(r, -20, 20));
                    glm::vec3 axis(0.0f);
                    axis[int(h.kind) - int(PlaceHandle::turnX)] = 1.0f;
                    const auto b = on_plane(ray(to), frame.pivot, axis);
                    if (!b || std::abs(glm::dot(ray(to).direction, axis)) < 0.2f ||
                        glm::length(*b - frame.pivot) < 0.2f)
                        continue;
                    const PlaceDrag drag = dragged(frame, h.kind, view, ray(*from), ray(to));
                    const glm::vec3 turned = drag.placement.turn * glm::normalize(h.position - frame.pivot);
                    QVERIFY(glm::length(turned - glm::normalize(*b - frame.pivot)) < 5e-3f);
                    Snap snap;
                    snap.angle = glm::radians(15.0f);
                    const PlaceDrag stepped = dragged(frame, h.kind, view, ray(*from), ray(to), snap);
                    const float angle = glm::degrees(glm::angle(stepped.placement.turn)) / 15;
                    QVERIFY(std::abs(angle - std::round(angle)) < 1e-2f);
                }
            }
        }
        QVERIFY2(arms > 200 && sides > 200, qPrintable(QString("%1, %2").arg(arms).arg(sides)));
    }

    void rays_meet_what_brute_force_meets() {
        for (std::uint32_t seed = 1; seed <= 4; ++seed) {
            Scene scene = random_scene(seed, 0);
            std::mt19937 r(seed);
            std::vector<ObjectEdit> edits;
            for (std::size_t o = 0; o < scene.asset->objects.size(); o += 5) {
                ObjectEdit e = edit_of({}, *scene.asset, static_cast<int>(o));
                if (o % 3 == 0)
                    e.hidden = true;
                else
                    e = placed_by(e, {{random_in(r, -1, 1), random_in(r, 0, 1), random_in(r, -1, 1)},
                                      random_edit(r).rotation,
                                      random_in(r, 0.5f, 1.5f),
                                      {0, 1, 0}});
                edits.push_back(e);
            }
            RayScene rays(scene); // as the file has it; then as it is placed
            int met = 0;
            for (int round = 0; round < 2; ++round) {
                if (round == 1) {
                    take_edits(edits, {});
                    scene.placed = place_objects(*scene.asset, edits);
                    QVERIFY(!rays.holds(scene));
                    rays.place(scene);
                    QVERIFY(rays.holds(scene));
                }
                for (int i = 0; i < 800; ++i) {
                    const Ray ray{
                        {random_in(r, -9, 9), random_in(r, 0.2f, 7), random_in(r, -9, 9)},
                        glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 0.3f), random_in(r, -1, 1)))};
                    const float from = i % 2 ? 0.0f : 1.5f;
                    const RayHit a = rays.nearest(ray, from), b = brute_force(scene, ray, from);
                    QCOMPARE(a.object < 0, b.object < 0);
                    if (a.object < 0) continue;
                    ++met;
                    QVERIFY(std::abs(a.distance - b.distance) < 1e-3f);
                    if (a.object != b.object) { // faces in one place, on purpose
                        const RayHit other = rays.nearest(ray, from, std::array{a.object});
                        QVERIFY(std::abs(other.distance - a.distance) < 1e-3f);
                    }
                    QVERIFY(glm::dot(a.normal, ray.direction) <= 0.0f);
                    const AlphaMode mode = scene.asset->material_of(scene.objects()[std::size_t(a.object)]).alphaMode;
                    if (mode != AlphaMode::blend) QVERIFY(rays.occluded(ray, from, a.distance + 0.01f));
                }
            }
            QVERIFY(met > 800);
        }
    }

    /// A height field of a million triangles.
    void a_million_triangles_are_picked_within_a_frame() {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(1), 0, 1));
        Primitive p;
        p.material = 0;
        constexpr int side = 708;
        for (int y = 0; y <= side; ++y)
            for (int x = 0; x <= side; ++x) {
                Vertex v;
                v.position = {0.1f * x, std::sin(0.05f * x) + std::cos(0.07f * y), 0.1f * y};
                p.vertices.push_back(v);
                p.bounds.add(v.position);
            }
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x) {
                const std::uint32_t i = y * (side + 1) + x;
                for (const std::uint32_t k : {i, i + side + 1, i + 1, i + 1, i + side + 1, i + side + 2})
                    p.indices.push_back(k);
            }
        Object o;
        o.primitive = 0;
        o.bounds = p.bounds;
        a.objects.push_back(o);
        a.objectNames.push_back({"field", "field", 0});
        a.primitives.push_back(std::move(p));
        Scene scene{finished(std::move(a)), {}, {}, {}};
        QVERIFY(scene.asset->triangles() >= 1000000);
        RayScene rays(scene);
        ObjectEdit e = edit_of({}, *scene.asset, 0);
        std::vector<double> ms;
        for (int i = 0; i < 60; ++i) { // moved, then picked
            e.translation.x = 0.01f * static_cast<float>(i);
            scene.placed = place_objects(*scene.asset, {e});
            QElapsedTimer clock;
            clock.start();
            rays.place(scene);
            const RayHit hit = rays.nearest({{30, 20, 30 + 0.3f * static_cast<float>(i % 20)}, {0, -1, 0}});
            ms.push_back(double(clock.nsecsElapsed()) * 1e-6);
            QCOMPARE(hit.object, 0);
        }
        std::sort(ms.begin(), ms.end());
        QVERIFY2(ms[56] < 16.0, qPrintable(QString("median %1 ms, p95 %2 ms").arg(ms[30]).arg(ms[56])));
    }

private:
    static std::string joined_ids(const SceneAsset& asset) {
        std::string out;
        for (const std::string& id : ids_of(asset))
            out += id + ", ";
        return out;
    }
};

MIROLUX_TEST(objects_test)
#include "objects_test.moc"
