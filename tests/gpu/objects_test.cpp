#include "core/account/ledger.h"
#include "core/motion/motion.h"
#include "core/path/path_kind.h"
#include "core/plan/camera_motion.h"
#include "core/technique/plan_builder.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

FrameRecord drawn(const Scene& scene, const Setup& setup, const View& view, const RenderOptions& o) {
    auto r = session().render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

/// Distance along a ray at which the picture's near plane cuts it off.
float near_along(const View& view, const Ray& ray) {
    return view.camera.near / glm::dot(ray.direction, glm::normalize(view.camera.aim - view.camera.eye));
}

/// Some objects turned, moved, sized and hidden.
Scene rearranged(Scene scene, std::uint32_t seed, float strength = 1.0f) {
    std::mt19937 r(seed);
    std::vector<ObjectEdit> edits;
    for (std::size_t o = 0; o < scene.asset->objects.size(); o += 3) {
        ObjectEdit e = edit_of({}, *scene.asset, static_cast<int>(o));
        const glm::vec3 axis = glm::normalize(glm::vec3(random_in(r, -1, 1), 1, random_in(r, -1, 1)));
        e = placed_by(e, {strength * glm::vec3(random_in(r, -1, 1), random_in(r, 0, 1), random_in(r, -1, 1)),
                          glm::angleAxis(strength * random_in(r, -1, 1), axis),
                          1 + strength * random_in(r, -0.3f, 0.4f), scene.asset->objects[o].bounds.center()});
        e.hidden = o % 12 == 9;
        edits.push_back(e);
    }
    take_edits(edits, {});
    scene.placed = place_objects(*scene.asset, edits);
    return scene;
}

/// The same scene with the edits in its file.
Scene in_file(const Scene& scene) {
    SceneAsset asset = *scene.asset;
    asset.objects.clear();
    asset.objectNames.clear();
    for (std::size_t o = 0; o < scene.objects().size(); ++o)
        if (!scene.objects()[o].hidden) {
            asset.objects.push_back(scene.objects()[o]);
            asset.objectNames.push_back(scene.asset->objectNames[o]);
        }
    Scene out = scene;
    out.asset = std::make_shared<const SceneAsset>(std::move(asset));
    out.placed.reset();
    return out;
}

const Technique reader{.name = "test_motion_reader",
                       .wants = [](const FrameInputs&) { return std::vector<std::string>{"motion"}; }};

} // namespace

class objects_test : public QObject {
    Q_OBJECT
private slots:
    /// Edits in the project and edits in the file are the same picture to the bit, on every path.
    void edited_objects_are_drawn_as_if_the_file_had_them_there() {
        const Scene scene = rearranged(random_scene(7, 20), 2), same = in_file(scene);
        QVERIFY(same.objects().size() < scene.objects().size());
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const std::string& path : path_words([](const PathKind&) { return true; })) {
            const Setup s = setup_with({{"path.kind", path}});
            QVERIFY2(hdr(scene, s, view).data == hdr(same, s, view).data, path.c_str());
        }
        QVERIFY(hdr(scene, Setup(), view).data != hdr(random_scene(7, 20), Setup(), view).data);
    }

    /// What the picture shows at 2,000 random pixels of the demo is what a ray through the pixel's centre meets.
    void picking_tells_what_the_picture_shows() {
        const Demo d = demo(640, 360);
        const RayScene rays(d.scene);
        std::mt19937 r(11);
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.floatLayers = {"objects"};
        int asked = 0, edges = 0, sky = 0, panes = 0;
        for (const Camera& camera : d.cameras) {
            View view = d.view;
            view.camera = camera;
            const FloatImage shown = drawn(d.scene, Setup(), view, o).floats.at("objects");
            const auto number = [&](int x, int y) {
                return static_cast<int>(shown.data[(std::size_t(y) * 640 + std::size_t(x)) * 4 + 3]) - 1;
            };
            for (int i = 0; i < static_cast<int>(2000 / d.cameras.size() + 1); ++i, ++asked) {
                const int x = static_cast<int>(r() % 640), y = static_cast<int>(r() % 360);
                const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                const RayHit hit = rays.nearest(ray, near_along(view, ray));
                sky += hit.object < 0;
                panes += hit.object >= 0 &&
                         d.scene.asset->material_of(d.scene.objects()[std::size_t(hit.object)]).alphaMode ==
                             AlphaMode::blend;
                if (hit.object == number(x, y)) continue;
                // Two that meet at the pixel's centre, to the last bits of depth and of place: either is right.
                const RayHit behind = rays.nearest(ray, near_along(view, ray), std::array{hit.object});
                const bool tie =
                    behind.object == number(x, y) && std::abs(behind.distance - hit.distance) < 1e-3f * hit.distance;
                bool edge = false; // a hundredth of a pixel beside the centre
                for (const auto& [dx, dy] : {std::pair(-0.01, 0.0), {0.01, 0.0}, {0.0, -0.01}, {0.0, 0.01}}) {
                    const Ray beside = ray_through(view, x + 0.5 + dx, y + 0.5 + dy);
                    edge = edge || rays.nearest(beside, near_along(view, beside)).object == number(x, y);
                }
                ++edges;
                QVERIFY2(tie || edge, qPrintable(QString("%1 at %2, %3: ray %4, picture %5")
                                                     .arg(QString::fromStdString(camera.name))
                                                     .arg(x)
                                                     .arg(y)
                                                     .arg(hit.object)
                                                     .arg(number(x, y))));
            }
        }
        QVERIFY(asked >= 2000 && edges < 20);
        QVERIFY2(sky > 50 && panes > 20, qPrintable(QString("%1 of sky, %2 of panes").arg(sky).arg(panes)));
    }

    void the_motion_target_is_drawn_when_someone_reads_it() {
        const Scene scene = random_scene(3, 5);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const DrawList list = build_draw_list(scene, Setup(), view);
        const FrameInputs in{scene, Setup(), view, list};
        QVERIFY(!plan_frame(in).pass("motion") && !plan_frame(in).has_history());
        QVERIFY(plan_frame(in, {&reader}).pass("motion"));
        QVERIFY(plan_frame(in, {&reader}).has_history());
        QVERIFY(plan_frame(scene, setup_with({{"motion.write", "always"}}), view).pass("motion"));
        // Off, the picture is the same to the bit as with it.
        QVERIFY(hdr(scene, Setup(), view).data == hdr(scene, setup_with({{"motion.write", "always"}}), view).data);
    }

    /// Known cameras and places: where the ray through a pixel meets an object, its point is carried back by hand and
    /// projected anew.
    void motion_is_the_difference_of_projected_positions() {
        const Setup setup = setup_with({{"motion.write", "always"}, {"path.kind", "tiled-deferred"}});
        const Scene still = random_scene(9, 6);
        for (const Stereo stereo : {Stereo::off, Stereo::twoPasses, Stereo::onePass})
            for (int what = 0; what < 4; ++what) { // neither moves, the camera, the objects, both
                View before = view_from({8, 4, 12}, {0, 1, 0}, 96, 54), now = before;
                before.stereo = now.stereo = stereo;
                if (what & 1) now.camera = fly(orbit(now.camera, 0.08f, 0.03f), {0.2f, 0.1f, 0.5f});
                const Scene was = rearranged(still, 5, 0.3f), is = what & 2 ? rearranged(still, 6, 0.35f) : was;
                RenderOptions o;
                o.picture = false;
                o.fencedSamples = 0;
                o.targets = {{"motion"}};
                (void)drawn(random_scene(1, 1), setup, before, o); // another scene: a cut
                const FrameRecord first = drawn(was, setup, before, o), r = drawn(is, setup, now, o);
                for (const float v : first.targets[0].data)
                    QVERIFY(std::abs(v) < 1e-3f); // after a cut nothing has moved
                const FloatImage& image = r.targets[0];
                const View eye = eye_views(now).front(), eyeBefore = eye_views(before).front();
                const RayScene rays(is);
                double worst = 0, most = 0;
                int compared = 0, sky = 0;
                for (int y = 0; y < 54; ++y)
                    for (int x = 0; x < 96; ++x) {
                        const Ray ray = ray_through(eye, x + 0.5, y + 0.5);
                        // Panes are not in the target.
                        std::vector<int> panes;
                        RayHit hit = rays.nearest(ray, near_along(eye, ray));
                        while (hit.object >= 0 &&
                               is.asset->material_of(is.objects()[std::size_t(hit.object)]).alphaMode ==
                                   AlphaMode::blend) {
                            panes.push_back(hit.object);
                            hit = rays.nearest(ray, near_along(eye, ray), panes);
                        }
                        const RayHit second = hit.object < 0
                                                  ? RayHit{}
                                                  : rays.nearest(ray, hit.distance * 0.999f, std::array{hit.object});
                        if (hit.object >= 0 && second.object >= 0 && second.distance < hit.distance * 1.01f)
                            continue; // two surfaces in one place: either may show
                        const glm::vec3 point = hit.object < 0 ? eyeBefore.camera.eye + ray.direction * 1e6f
                                                               : ray.origin + ray.direction * hit.distance;
                        glm::vec3 carried = point;
                        if (hit.object >= 0)
                            carried =
                                glm::vec3(glm::dmat4(was.objects()[std::size_t(hit.object)].transform) *
                                          glm::inverse(glm::dmat4(is.objects()[std::size_t(hit.object)].transform)) *
                                          glm::dvec4(point, 1));
                        const auto at = project(eyeBefore, carried);
                        const std::size_t texel = (std::size_t(y) * 96 + std::size_t(x)) * std::size_t(image.channels);
                        const glm::vec2 got(image.data[texel], image.data[texel + 1]);
                        if (!at) {
                            QCOMPARE(got.x, motion_unknown);
                            continue;
                        }
                        const glm::vec2 wanted = glm::vec2(x + 0.5, y + 0.5) - *at;
                        const double off = glm::length(got - wanted);
                        if (off > 0.1) { // an edge through the pixel's centre: a neighbour's surface
                            bool edge = false;
                            for (const auto& [dx, dy] : {std::pair(-0.02, 0.0), {0.02, 0.0}, {0.0, -0.02}, {0.0, 0.02}})
                                edge = edge || rays.nearest(ray_through(eye, x + 0.5 + dx, y + 0.5 + dy)).object !=
                                                   rays.nearest(ray).object;
                            QVERIFY2(edge, qPrintable(QString("%1, %2: %3, %4 for %5, %6")
                                                          .arg(x)
                                                          .arg(y)
                                                          .arg(got.x)
                                                          .arg(got.y)
                                                          .arg(wanted.x)
                                                          .arg(wanted.y)));
                            continue;
                        }
                        worst = std::max(worst, off);
                        most = std::max(most, double(glm::length(wanted)));
                        ++compared;
                        sky += hit.object < 0;
                    }
                QVERIFY2(compared > 3500 && sky > 100, qPrintable(QString::number(compared)));
                QVERIFY2(worst < 0.1, qPrintable(QString::number(worst)));
                QCOMPARE(most > 1.0, what != 0);
            }
    }

    /// The device's target against the reference in double at one known point.
    void motion_of_a_point_needs_no_device() {
        const Scene was = random_scene(9, 0), is = rearranged(was, 4);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
        const DrawList list = build_draw_list(is, Setup(), view);
        const FrameBefore before{view, was.placed, {}};
        const FrameInputs in{is, Setup(), view, list, {}, &before}, first{is, Setup(), view, list};
        const Object& o = is.objects()[0];
        const glm::vec3 corner = is.asset->primitives[std::size_t(o.primitive)].vertices[0].position;
        const auto place = [&](const Object& object) {
            return *project(view, glm::vec3(object.transform * glm::vec4(corner, 1)));
        };
        const auto m = motion_of(in, 0, glm::dvec3(o.transform * glm::vec4(corner, 1)));
        QVERIFY(m.has_value());
        QVERIFY(glm::length(glm::vec2(*m) - (place(o) - place(was.objects()[0]))) < 1e-2f);
        QVERIFY(glm::length(*motion_of(first, 0, {0, 0, 0})) == 0.0);
    }

    /// On every path, with either way of blended surfaces: what objects are charged is what lights are, evaluation by
    /// evaluation, and the fragments are those that the counters count.
    void the_ledger_of_objects_adds_up() {
        const Scene scene = rearranged(random_scene(5, 30), 3);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const std::string& path : path_words([](const PathKind&) { return true; })) {
            RenderOptions o;
            o.picture = false;
            o.fencedSamples = 1;
            o.ledger = o.count = true;
            o.floatLayers = {"final"};
            const Setup s = setup_with({{"path.kind", path}});
            const FrameRecord r = drawn(scene, s, view, o);
            std::uint64_t lights = 0, objects = 0, fragments = 0, counted = 0;
            for (const LightShare& l : r.ledger)
                lights += l.evaluations;
            for (const ObjectShare& share : r.objects) {
                objects += share.evaluations;
                fragments += share.fragments;
            }
            for (const PassRecord& p : r.passes)
                if (p.name == "opaque" || p.name == "g-buffer" || p.name == "ambient" || p.name == "transparent" ||
                    (path == "additive" && p.name == "lights"))
                    counted += p.work.at("fragments");
            QVERIFY(lights > 1000);
            QVERIFY2(objects == lights,
                     qPrintable(QString("%1: %2 of objects, %3 of lights").arg(path.c_str()).arg(objects).arg(lights)));
            QVERIFY2(fragments == counted,
                     qPrintable(QString("%1: %2, counters %3").arg(path.c_str()).arg(fragments).arg(counted)));
            const Ledger ledger = make_ledger(scene, r);
            QCOMPARE(ledger.objects.size(), scene.objects().size());
            double share = 0;
            for (const ObjectRow& row : ledger.objects) {
                share += row.costShare;
                QVERIFY(!row.hidden || (!row.inView && row.fragments == 0));
            }
            QVERIFY(std::abs(share - 1) < 1e-9);
            const auto order = ordered(ledger.objects, ObjectOrder::evaluations);
            QVERIFY(std::is_sorted(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
                return ledger.objects[a].evaluations > ledger.objects[b].evaluations;
            }));
        }
    }
};

MIROLUX_TEST(objects_test)
#include "objects_test.moc"
