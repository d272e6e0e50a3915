#include "core/io/wire.h"
#include "core/motion/scene_at.h"
#include "core/rays/ray_scene.h"
#include "core/scene/built.h"
#include "core/scene/gltf_export.h"
#include "core/scene/history.h"
#include "core/scene/place_handles.h"
#include "support/rigs.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QElapsedTimer>
#include <QtTest>
#include <array>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_build {

struct Sums {
    double area = 0, volume = 0;
    std::size_t open = 0, folded = 0, flipped = 0;
    double worstNormal = 0; // 1 - cosine between a vertex's normal and the expected one
};

/// Area and volume of a mesh, its edges that have no partner, and its triangles that lie turned over in their texture
/// coordinates or face against their normals.
Sums sums_of(const Primitive& p) {
    Sums s;
    const auto key = [](const glm::vec3& v) { return std::array<float, 3>{v.x + 0.0f, v.y + 0.0f, v.z + 0.0f}; };
    std::map<std::pair<std::array<float, 3>, std::array<float, 3>>, int> edges;
    const std::vector<Vertex>& v = p.vertices;
    const std::vector<std::uint32_t>& at = p.indices;
    for (std::size_t t = 0; t + 2 < at.size(); t += 3) {
        const Vertex* c[3] = {&v[at[t]], &v[at[t + 1]], &v[at[t + 2]]};
        const glm::dvec3 a(c[0]->position), b(c[1]->position), d(c[2]->position);
        const glm::dvec3 n = glm::cross(b - a, d - a);
        s.area += 0.5 * glm::length(n);
        s.volume += glm::dot(a, glm::cross(b, d)) / 6;
        for (int k = 0; k < 3; ++k) {
            ++edges[{key(c[k]->position), key(c[(k + 1) % 3]->position)}];
            if (glm::dot(n, glm::dvec3(c[k]->normal)) <= 0) ++s.flipped;
        }
        const glm::dvec2 u(c[1]->uv - c[0]->uv), w(c[2]->uv - c[0]->uv);
        if (!(u.x * w.y - u.y * w.x < 0)) ++s.folded; // the picture's top is up: clockwise, as v runs down
    }
    for (const auto& [edge, count] : edges) {
        const auto back = edges.find({edge.second, edge.first});
        if (back == edges.end() || back->second != count) ++s.open;
    }
    return s;
}

/// What the polyhedron of so many segments and rings has, by formulas of its frusta.
struct Solid {
    double area = 0, volume = 0;
};
double ring_of(int n, double r) { // area of a regular polygon
    return 0.5 * n * r * r * std::sin(2 * M_PI / n);
}
void add_frustum(Solid& s, int n, double r0, double r1, double h) {
    const double half = std::sin(M_PI / n), apothem = std::cos(M_PI / n);
    s.area += n * half * (r0 + r1) * std::hypot(h, apothem * (r1 - r0));
    s.volume += h / 3 * (ring_of(n, r0) + ring_of(n, r1) + std::sqrt(ring_of(n, r0) * ring_of(n, r1)));
}
Solid solid_of(const Shape& s) {
    Solid out;
    const int n = s.segments;
    const double x = s.size.x, y = s.size.y, z = s.size.z, r = 0.5 * x;
    switch (s.kind) {
    case ShapeKind::plane:
        return {x * z, 0};
    case ShapeKind::box:
        return {2 * (x * y + y * z + z * x), x * y * z};
    case ShapeKind::staircase: { // n steps: the sides are sums of columns
        const double side = y * z * (n + 1) / (2.0 * n);
        return {2 * side + 2 * x * y + 2 * x * z, side * x};
    }
    case ShapeKind::cylinder:
        add_frustum(out, n, r, r, y);
        out.area += 2 * ring_of(n, r);
        return out;
    case ShapeKind::cone:
        add_frustum(out, n, r, 0, y);
        out.area += ring_of(n, r);
        return out;
    case ShapeKind::ball:
    case ShapeKind::capsule: {
        const int rings = s.rings;
        for (int j = 0; j < rings; ++j) {
            const double a = M_PI * j / rings, b = M_PI * (j + 1) / rings;
            add_frustum(out, n, r * std::sin(a), r * std::sin(b), r * (std::cos(a) - std::cos(b)));
        }
        if (s.kind == ShapeKind::capsule) add_frustum(out, n, r, r, y - x);
        return out;
    }
    case ShapeKind::torus: {
        const double t = 0.5 * s.tube, ring = r - t;
        for (int j = 0; j < s.rings; ++j) {
            const double a = 2 * M_PI * j / s.rings - M_PI / 2, b = 2 * M_PI * (j + 1) / s.rings - M_PI / 2;
            Solid part;
            add_frustum(part, n, ring + t * std::cos(a), ring + t * std::cos(b),
                        std::abs(t * (std::sin(b) - std::sin(a))));
            const bool outer = std::sin(b) > std::sin(a); // going up: outside of the tube
            out.area += part.area;
            out.volume += outer ? part.volume : -part.volume;
        }
        return out;
    }
    }
    return out;
}

/// A floor of two triangles with a lamp over it.
std::shared_ptr<const SceneAsset> floor_asset() {
    static const auto asset = [] {
        GltfText f;
        const std::vector<float> p = {-5, 0, -5, 5, 0, -5, -5, 0, 5, 5, 0, 5};
        const std::vector<std::uint16_t> i = {0, 2, 1, 1, 2, 3};
        const int positions = f.floats(p, "VEC3", 3), indices = f.accessor(i.data(), 12, 5123, 6, "SCALAR");
        f.json["materials"] = {{{"name", "boards"}}};
        f.json["meshes"] = {
            {{"primitives", {{{"attributes", {{"POSITION", positions}}}, {"indices", indices}, {"material", 0}}}}}};
        f.json["nodes"] = {{{"name", "floor"}, {"mesh", 0}}};
        f.json["scenes"] = {{{"nodes", {0}}}};
        return *f.import();
    }();
    return asset;
}

/// Of each object the middle of its vertices as they stand.
std::vector<glm::vec3> middles(const Scene& scene) {
    std::vector<glm::vec3> out;
    for (std::size_t o = 0; o < scene.asset->objects.size(); ++o) {
        glm::dvec3 sum(0);
        const std::vector<Vertex>& v = vertices_of(scene, o);
        for (const Vertex& x : v)
            sum += glm::dvec3(scene.objects()[o].transform * glm::vec4(x.position, 1));
        out.push_back(glm::vec3(sum / double(v.size())));
    }
    return out;
}

BuiltPtr one(const SceneAsset& asset, Shape shape, std::size_t count = 1) {
    Make m;
    m.shape = shape;
    BuiltPtr built;
    add_things(built, named_things(asset, {}, word(shape.kind), std::make_shared<const Make>(m), count));
    return built;
}

} // namespace mirolux::test_build
using namespace mirolux::test_build;

/// Things to build with: shapes by closed form, in a scene, in numbers, and what undo keeps of them.
class build_test : public QObject {
    Q_OBJECT
private slots:
    void shapes_are_closed_and_have_their_area_and_volume() {
        std::mt19937 random(5);
        for (const ShapeKind kind : all_shapes)
            for (int round = 0; round < 6; ++round) {
                Shape s = usual_shape(kind);
                if (round > 0) { // of other measures too
                    const auto between = [&](double a, double b) {
                        return std::uniform_real_distribution<double>(a, b)(random);
                    };
                    s.size = glm::vec3(between(0.1, 9), between(0.1, 9), between(0.1, 9));
                    s.tube = static_cast<float>(between(0.05, 2));
                    s.segments = static_cast<int>(between(1, 40));
                    s.rings = static_cast<int>(between(2, 30));
                    s = settled(s);
                }
                const Primitive p = make_shape(s);
                const Sums got = sums_of(p);
                const Solid want = solid_of(s);
                const QByteArray which = QByteArray(word(kind)) + " " + QByteArray::number(round);
                QVERIFY2(got.flipped == 0, which);
                QVERIFY2(got.folded == 0, which);
                QVERIFY2(std::abs(got.area / want.area - 1) < 2e-5,
                         qPrintable(QString("%1: area %2, not %3").arg(QString(which)).arg(got.area).arg(want.area)));
                if (kind == ShapeKind::plane) {
                    QVERIFY(got.open > 0); // its border
                    continue;
                }
                QVERIFY2(got.open == 0, which);
                QVERIFY2(
                    std::abs(got.volume / want.volume - 1) < 2e-5,
                    qPrintable(QString("%1: volume %2, not %3").arg(QString(which)).arg(got.volume).arg(want.volume)));
                QVERIFY2(std::abs(p.bounds.low.y) < 1e-6f, which);             // it stands
                const bool top = kind != ShapeKind::torus || s.rings % 2 == 0; // else an edge lies on top
                QVERIFY2(!top || std::abs(p.bounds.high.y - s.size.y) < 1e-5f * s.size.y, which);
            }
    }

    void normals_are_the_shapes_own() {
        for (const ShapeKind kind : all_shapes) {
            const Shape s = usual_shape(kind);
            const Primitive p = make_shape(s);
            const float r = 0.5f * s.size.x;
            for (const Vertex& v : p.vertices) {
                QVERIFY(std::abs(glm::length(v.normal) - 1) < 1e-5f);
                QVERIFY(std::abs(glm::dot(v.normal, glm::vec3(v.tangent))) < 1e-4f);
                glm::vec3 want = v.normal; // flat ones: sums_of looks at them
                const glm::vec3 around = glm::vec3(v.position.x, 0, v.position.z);
                const bool pole = glm::length(around) < 1e-6f;
                if (kind == ShapeKind::ball) want = glm::normalize(v.position - glm::vec3(0, r, 0));
                if (kind == ShapeKind::capsule)
                    want = glm::normalize(v.position - glm::vec3(0, std::clamp(v.position.y, r, s.size.y - r), 0));
                if (kind == ShapeKind::torus)
                    want = glm::normalize(
                        v.position - (glm::normalize(around) * (r - 0.5f * s.tube) + glm::vec3(0, 0.5f * s.tube, 0)));
                if (kind == ShapeKind::cylinder && std::abs(v.normal.y) < 0.5f) want = glm::normalize(around);
                if (kind == ShapeKind::cone && v.normal.y > -0.5f && !pole)
                    want = glm::normalize(glm::normalize(around) * s.size.y + glm::vec3(0, r, 0));
                QVERIFY2(glm::dot(want, v.normal) > 1 - 1e-5f, word(kind));
            }
        }
    }

    void measures_that_cannot_be_built_are_settled() {
        for (const ShapeKind kind : all_shapes) {
            Shape s;
            s.kind = kind;
            s.size = glm::vec3(-3, std::nanf(""), 1e9f);
            s.tube = 100;
            s.segments = -4;
            s.rings = 100000;
            const Shape fit = settled(s);
            QCOMPARE(settled(fit), fit);
            const Sums got = sums_of(make_shape(s));
            QVERIFY2(std::isfinite(got.area) && got.area > 0 && got.flipped == 0,
                     qPrintable(QString("%1: area %2, %3 turned over").arg(word(kind)).arg(got.area).arg(got.flipped)));
            QVERIFY(kind == ShapeKind::plane || got.open == 0);
        }
        Shape low = usual_shape(ShapeKind::capsule);
        low.size = {2, 0.1f, 2}; // lower than wide: a ball
        QCOMPARE(settled(low).size.y, 2.0f);
        QCOMPARE(sums_of(make_shape(low)).open, std::size_t(0));
    }

    void what_is_built_stands_in_the_asset() {
        const auto file = floor_asset();
        QVERIFY(built_on(file, nullptr) == file);
        BuiltPtr built = one(*file, usual_shape(ShapeKind::ball), 3);
        Make plain;
        plain.shape = usual_shape(ShapeKind::box);
        plain.material = "boards";
        add_things(built, named_things(*file, *built, "crate", std::make_shared<const Make>(plain), 1));
        Make copy;
        copy.copy = "floor";
        add_things(built, named_things(*file, *built, "second floor", std::make_shared<const Make>(copy), 1));
        const auto asset = built_on(file, built);
        QCOMPARE(asset->objects.size(), file->objects.size() + 5);
        QCOMPARE(asset->primitives.size(), file->primitives.size() + 2);           // three balls are one mesh
        QVERIFY(asset->primitives[0].vertices.same(file->primitives[0].vertices)); // nothing was copied
        QVERIFY(asset->digest != file->digest && asset->fileDigest == file->fileDigest && asset->file == file);
        QCOMPARE(asset->materials.size(), file->materials.size() + 1);
        QCOMPARE(asset->material_of(asset->objects[1]).name, std::string("own"));
        QCOMPARE(asset->material_of(asset->objects[4]).name, std::string("boards"));
        QCOMPARE(thing_of(*asset, 4)->name, std::string("crate 1"));
        QCOMPARE(objects_of(*asset, built->things[1].id), std::vector<int>{2});
        QVERIFY(!thing_of(*asset, 0));
        // Built anew, meshes stay what they are.
        const auto other = built_on(asset, one(*file, usual_shape(ShapeKind::ball)));
        QVERIFY(other->file == file);
        QVERIFY(other->primitives.back().vertices.same(asset->primitives[file->primitives.size()].vertices));
        QVERIFY(built_on(asset, nullptr) == file);
        // What cannot be is told, and the rest stands.
        Make lost;
        lost.model = "/no/such/file.glb";
        BuiltPtr bad = built;
        add_things(bad, named_things(*asset, *built, "gone", std::make_shared<const Make>(lost), 1));
        copy.copy = "no such object";
        add_things(bad, named_things(*asset, *bad, "gone", std::make_shared<const Make>(copy), 1));
        const auto without = built_on(file, bad);
        QCOMPARE(without->objects.size(), asset->objects.size());
        QCOMPARE(without->warnings.size(), file->warnings.size() + 2);
        QVERIFY(without->warnings.back().find("no such object") != std::string::npos);
    }

    /// Placed, an object is where its edit says; rays meet it as they meet the file's, and find what is built anew.
    void rays_meet_what_is_built() {
        const auto file = floor_asset();
        RayScene rays(Scene{file, {}, {}, {}});
        const Ray down{{0.3f, 10, 0.2f}, {0, -1, 0}};
        QCOMPARE(rays.nearest(down).object, 0);
        const auto asset = built_on(file, one(*file, usual_shape(ShapeKind::box), 2));
        ObjectEdit up = edit_of({}, *asset, 1);
        up.translation = {0, 3, 0};
        Scene scene{asset, {}, {}, {}, place_objects(*asset, {up})};
        rays.place(scene);
        RayHit hit = rays.nearest(down);
        QCOMPARE(hit.object, 1);
        QVERIFY(std::abs(hit.distance - 6) < 1e-5f); // 10 - (3 + 1)
        const std::vector<int> without = {1};
        QCOMPARE(rays.nearest(down, 0, without).object, 2);
        scene.asset = file;
        scene.placed = nullptr;
        rays.place(scene);
        QCOMPARE(rays.nearest(down).object, 0);
        // A box standing on a slope: the middle of its underside on it, its up along the normal.
        const glm::vec3 normal = glm::normalize(glm::vec3(1, 2, -0.5f)), point(1, 2, 3);
        const Box box = asset->primitives.back().bounds;
        const ObjectEdit stood = standing_on(up, box, point, normal);
        QVERIFY(glm::distance(glm::vec3(matrix_of(stood) * glm::vec4(0, 0, 0, 1)), point) < 1e-5f);
        QVERIFY(glm::dot(stood.rotation * glm::vec3(0, 1, 0), normal) > 1 - 1e-5f);
        const ObjectEdit again = standing_on(stood, box, {0, 0, 0}, {0, 1, 0});
        QVERIFY(std::abs(std::abs(again.rotation.w) - 1) < 1e-4f); // and back upright
    }

    void drags_stop_on_the_grid() {
        PlaceFrame frame;
        frame.pivot = {0.13f, 0.5f, 0.26f};
        frame.foot = {0.13f, 0, 0.26f};
        frame.single = true;
        frame.axes[0] = {0.5f, 0, 0};
        frame.axes[1] = {0, 0.5f, 0};
        frame.axes[2] = {0, 0, 0.5f};
        View view;
        view.camera.eye = {0, 10, 0.01f};
        const auto down = [](float x, float z) { return Ray{{x, 10, z}, {0, -1, 0}}; };
        Snap snap;
        snap.grid = 0.25f;
        const PlaceDrag moved = dragged(frame, PlaceHandle::ground, view, down(0, 0), down(1.03f, -0.6f), snap);
        const glm::vec3 foot = frame.foot + moved.placement.move;
        QVERIFY(glm::distance(foot, glm::vec3(1.25f, 0, -0.25f)) < 1e-5f);
        const Ray from{{0.63f, 0.5f, 5}, {0, 0, -1}}, to{{0.98f, 0.5f, 5}, {0, 0, -1}};
        const PlaceDrag sized = dragged(frame, PlaceHandle::sizeX, view, from, to, snap);
        QVERIFY(std::abs(sized.factors.x - 1.25f) < 1e-4f); // a metre and 0.35 more: 1.25 m
        QVERIFY(glm::distance(on_grid({1.1f, 0.4f, 0.9f}, {0, 1, 0}, 0.5f), glm::vec3(1, 0.4f, 1)) < 1e-6f);
        // On a slope the point stays on the surface.
        const glm::vec3 n = glm::normalize(glm::vec3(1, 3, 0)), p(1.1f, 0.4f, 0.9f), on = on_grid(p, n, 0.5f);
        QVERIFY(std::abs(glm::dot(n, on - p)) < 1e-5f && std::abs(on.x - 1) < 1e-6f);
    }

    void copies_stand_in_rows() {
        const auto file = floor_asset();
        BuiltPtr built = one(*file, usual_shape(ShapeKind::cone));
        auto asset = built_on(file, built);
        ObjectEdit e = edit_of({}, *asset, 1);
        e.translation = {1, 0, 0};
        e.rotation = glm::angleAxis(0.4f, glm::vec3(0, 1, 0));
        ArrayStep rows;
        rows.count = {3, 1, 2};
        rows.step = {2, 1, 5};
        // One of the file's becomes a copy that is drawn like it.
        const Copies c = arrayed(*asset, {e}, {1, 0}, rows);
        QCOMPARE(c.things.size(), std::size_t(10));
        add_things(built, c.things);
        std::vector<ObjectEdit> edits = {e};
        take_edits(edits, c.edits);
        asset = built_on(asset, built);
        const auto placed = place_objects(*asset, edits);
        QCOMPARE(placed->objects.size(), std::size_t(12));
        std::set<std::pair<int, int>> places;
        for (std::size_t o = 0; o < placed->objects.size(); ++o) {
            const Object& object = placed->objects[o];
            if (object.primitive != asset->objects[1].primitive) continue;
            places.insert({int(std::round(object.transform[3].x)), int(std::round(object.transform[3].z))});
            QVERIFY(glm::distance(glm::vec3(object.transform[0]), glm::vec3(placed->objects[1].transform[0])) < 1e-6f);
        }
        QCOMPARE(places, (std::set<std::pair<int, int>>{{1, 0}, {3, 0}, {5, 0}, {1, 5}, {3, 5}, {5, 5}}));
        std::set<std::string> ids, names;
        for (const BuiltThing& t : built->things) {
            ids.insert(t.id);
            names.insert(t.name);
        }
        QVERIFY(ids.size() == 11 && names.size() == 11 && names.count("cone 6") && names.count("floor 5"));
        // What goes, goes with all that names it.
        Project p;
        p.built = built;
        p.objects = edits;
        p.groups = {{"some", {}, {built->things[3].id}}, {"both", {}, {built->things[3].id, built->things[4].id}}};
        p.targets.resize(1);
        p.targets[0].offObjects = {built->things[3].id};
        remove_things(p, {built->things[3].id});
        QCOMPARE(p.built->things.size(), std::size_t(10));
        QVERIFY(p.objects.size() == edits.size() - 1 && p.groups.size() == 1 && p.groups[0].objects.size() == 1 &&
                p.targets[0].offObjects.empty());
    }

    void projects_and_messages_keep_what_is_built() {
        QTemporaryDir dir;
        const auto scene = dir.filePath("scene.gltf").toStdString(), model = dir.filePath("model.gltf").toStdString(),
                   path = dir.filePath("bed.mirolux").toStdString();
        QVERIFY(write_file_atomically(scene, MovingScene(3).text()).has_value());
        QVERIFY(write_file_atomically(model, MovingScene(4).text()).has_value());
        auto open = open_project(scene);
        QVERIFY(open);
        Make ball, glow, other;
        ball.shape = usual_shape(ShapeKind::ball);
        glow.shape = usual_shape(ShapeKind::torus);
        glow.own = {{0.1f, 0.2f, 0.3f}, 1, 0.25f, {5, 6, 7}};
        other.model = model;
        for (const auto& [make, name] : {std::pair(ball, "ball"), {glow, "ring"}, {other, "figure"}})
            add_things(open->project.built,
                       named_things(*open->asset, open->project.built ? *open->project.built : Built{}, name,
                                    std::make_shared<const Make>(make), 2));
        open->asset = built_on(open->asset, open->project.built);
        QVERIFY(open->asset->warnings.empty() || open->asset->warnings.back().find("lights") != std::string::npos);
        ObjectEdit e = edit_of({}, *open->asset, static_cast<int>(open->asset->objects.size()) - 1);
        e.translation = {1, 2, 3};
        take_edits(open->project.objects, {e});
        QVERIFY(save_project(open->project, *open->asset, path).has_value());
        const auto text = read_file(path);
        QVERIFY(std::string(text->begin(), text->end()).find("\"model.gltf\"") != std::string::npos); // beside it
        const auto back = open_project(path);
        QVERIFY(back);
        QVERIFY(*back->project.built == *open->project.built);
        QCOMPARE(back->project.objects, open->project.objects);
        QCOMPARE(back->asset->digest, open->asset->digest);
        QCOMPARE(back->asset->objects.size(), open->asset->objects.size());
        QVERIFY(back->project.built->things[0].make == back->project.built->things[1].make); // still shared
        // Nonsense is told with its place.
        for (const auto& [from, to, pointer] :
             {std::tuple("\"shape\": \"ball\"", "\"shape\": \"egg\"", "/built/makes/0/shape"),
              {"\"id\": \"made 2\"", "\"id\": \"made 1\"", "/built/things/1/id"},
              {"\"make\": 2", "\"make\": 77", "/built/things/4/make"}}) {
            std::string bad(text->begin(), text->end());
            const auto at = bad.find(from);
            QVERIFY2(at != std::string::npos, from);
            bad.replace(at, std::string(from).size(), to);
            QVERIFY(write_file_atomically(path, bad).has_value());
            const auto refused = open_project(path);
            QVERIFY2(!refused && to_text(refused.error()).find(pointer) != std::string::npos,
                     refused ? "" : to_text(refused.error()).c_str());
        }
    }

    /// A model that moves goes on moving where it is placed, beside the file's own clips.
    void models_move_where_they_are_placed() {
        QTemporaryDir dir;
        const auto model = dir.filePath("model.gltf").toStdString();
        QVERIFY(write_file_atomically(model, MovingScene(4).text()).has_value());
        const auto alone = *import_gltf(model);
        const auto file = *MovingScene(3).import();
        Make make;
        make.model = model;
        BuiltPtr built;
        add_things(built, named_things(*file, {}, "figure", std::make_shared<const Make>(make), 2));
        const auto asset = built_on(file, built);
        QCOMPARE(asset->rig->clips.size(), file->rig->clips.size() + 2 * alone->rig->clips.size());
        std::vector<ObjectEdit> edits;
        const std::vector<int> second = objects_of(*asset, built->things[1].id);
        QCOMPARE(second.size(), alone->objects.size());
        for (const int o : second) {
            edits.push_back(edit_of({}, *asset, o));
            edits.back().translation = {10, 0, 0};
        }
        std::vector<ObjectEdit> list;
        take_edits(list, edits);
        const Scene scene{asset, {}, {}, {}, place_objects(*asset, list)}, single{alone, {}, {}, {}};
        for (const double t : {0.0, 0.37, 1.9}) {
            const Scene now = scene_at(scene, t), one = scene_at(single, t);
            for (std::size_t k = 0; k < second.size(); ++k) {
                const auto o = static_cast<std::size_t>(second[k]);
                const glm::mat4 &there = now.objects()[o].transform, &here = one.objects()[k].transform;
                const std::vector<Vertex>&a = vertices_of(now, o), &b = vertices_of(one, k);
                QCOMPARE(a.size(), b.size());
                for (std::size_t v = 0; v < a.size(); v += 7) {
                    const glm::vec3 p(there * glm::vec4(a[v].position, 1)), q(here * glm::vec4(b[v].position, 1));
                    QVERIFY(glm::distance(p, q + glm::vec3(10, 0, 0)) < 1e-4f);
                    const Box& box = now.objects()[o].bounds;
                    QVERIFY(glm::all(glm::greaterThan(p, box.low - 1e-3f)) &&
                            glm::all(glm::lessThan(p, box.high + 1e-3f)));
                }
            }
        }
        const std::vector<Moves> moves = movers(scene);
        QCOMPARE(moves[static_cast<std::size_t>(second.front())], Moves::byClip);
        // Written as one file and read again, everything is where it was, and goes where it went.
        Project p;
        p.name = "bed";
        p.built = built;
        p.objects = list;
        p.targets.resize(1);
        const auto written = dir.filePath("bed.glb").toStdString();
        QVERIFY(export_gltf(p, asset, written).has_value());
        const auto again = import_gltf(written);
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        const Scene bed{*again, {}, {}, {}};
        QCOMPARE((*again)->objects.size(), asset->objects.size());
        for (const double t : {0.0, 0.37, 1.9}) {
            const std::vector<glm::vec3> want = middles(scene_at(scene, t)), got = middles(scene_at(bed, t));
            for (const glm::vec3& m : want)
                QVERIFY2(std::any_of(got.begin(), got.end(),
                                     [&](const glm::vec3& g) { return glm::distance(g, m) < 1e-3f; }),
                         qPrintable(QString("%1 s: nothing at %2, %3, %4").arg(t).arg(m.x).arg(m.y).arg(m.z)));
        }
    }

    void ten_thousand_boxes_are_held_and_undone() {
        const auto file = floor_asset();
        Project p;
        p.built = one(*file, usual_shape(ShapeKind::box), 10000);
        QElapsedTimer clock;
        clock.start();
        const auto asset = built_on(file, p.built);
        const qint64 building = clock.elapsed();
        QCOMPARE(asset->primitives.size(), file->primitives.size() + 1);
        std::mt19937 random(9);
        std::uniform_real_distribution<float> place(-50, 50);
        std::vector<ObjectEdit> all;
        for (std::size_t o = 1; o < asset->objects.size(); ++o) {
            all.push_back(edit_of({}, *asset, static_cast<int>(o)));
            all.back().translation = {place(random), 0, place(random)};
        }
        take_edits(p.objects, all);
        History history;
        history.begin(p, "open");
        std::vector<std::pair<std::string, glm::vec3>> done;
        const std::size_t before = history.bytes();
        clock.restart();
        for (int step = 0; step < 1000; ++step) {
            ObjectEdit e = p.objects[random() % p.objects.size()];
            done.emplace_back(e.id, e.translation);
            e.translation.y += 1;
            take_edits(p.objects, {e});
            history.add(p, "move");
        }
        const double stepMs = double(clock.elapsed()) / 1000;
        const std::size_t taken = history.bytes() - before;
        qInfo("10,000 boxes: built in %lld ms; a step of the history takes %.2f ms and %.1f KiB", building, stepMs,
              double(taken) / 1000 / 1024);
        QVERIFY(taken < 60u << 20); // whole lists would be a gigabyte
        QVERIFY(stepMs < 50);
        for (auto it = done.rbegin(); it != done.rend(); ++it) {
            QVERIFY(history.can_undo());
            const Project back = history.undo();
            const auto e = std::find_if(back.objects.begin(), back.objects.end(),
                                        [&](const ObjectEdit& o) { return o.id == it->first; });
            QVERIFY(e != back.objects.end() && e->translation == it->second && back.objects.size() == 10000);
        }
        QVERIFY(!history.can_undo());
        Project last = history.redo();
        while (history.can_redo())
            last = history.redo();
        QCOMPARE(last.objects, p.objects);
        QVERIFY(last.built && *last.built == *p.built);
        // Things that come and go share what they have in common too.
        for (int step = 0; step < 100; ++step) {
            add_things(p.built, named_things(*file, *p.built, "box", p.built->things[0].make, 1));
            history.add(p, "one more");
        }
        QVERIFY(history.bytes() - before < 90u << 20);
        QCOMPARE(history.size(), History::most_steps + 1);
        QCOMPARE(history.undo().built->things.size(), std::size_t(10099));
    }
};

MIROLUX_TEST(build_test)
#include "build_test.moc"
