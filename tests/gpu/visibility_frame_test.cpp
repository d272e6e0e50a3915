#include "core/rays/ray_scene.h"
#include "core/shadow/shadow_set.h"
#include "core/visibility/cells.h"
#include "core/visibility/rooms.h"
#include "core/visibility/visibility_audit.h"
#include "session_fixture.h"
#include <QTemporaryDir>
#include <filesystem>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_visibility {

const std::vector<const char*> device_kinds = {"depth", "queries"};

struct Store {
    OpenProject open;
    Scene scene;
    View view;
    QTemporaryDir folder;
};

/// The cold store: sixty rooms.
std::unique_ptr<Store> store(int width = 320, int height = 180) {
    auto s = std::make_unique<Store>();
    auto open = open_project(std::filesystem::path(MIROLUX_DEMO).parent_path() / "cold-store.mirolux");
    if (!open) qFatal("%s", to_text(open.error()).c_str());
    s->open = *open;
    s->scene = scene_of(*open);
    s->scene.bakes = s->folder.path().toStdString();
    s->view = open->project.view;
    s->view.width = width;
    s->view.height = height;
    return s;
}

VisibilityAudit audited(const Scene& scene, const Setup& setup, const std::vector<View>& views) {
    auto audit = audit_visibility(session(), scene, {setup}, views);
    if (!audit) qFatal("%s", to_text(audit.error()).c_str());
    return audit->front();
}

/// Eight headings at a few places of a walk.
std::vector<View> round_about(const Walk& walk, const View& view, double every) {
    return views_along(walk, view, every, 8);
}

} // namespace mirolux::test_visibility
using namespace mirolux::test_visibility;

/// Visibility found on the device, and beforehand, held against what shows.
class visibility_frame_test : public QObject {
    Q_OBJECT
private slots:
    /// Pixels by object against rays through the middles of pixels.
    void pixels_of_objects_are_those_that_rays_meet() {
        const auto s = store(160, 90);
        RenderOptions o;
        o.picture = false;
        o.seen = true;
        const Setup setup = visibility_setup(Setup());
        const RayScene rays(s->scene);
        std::size_t seen = 0;
        for (const View& v : views_along(s->open.project.walks[0], s->view, 9, 3)) {
            const auto r = session().render(s->scene, setup, v, o);
            QVERIFY(r.has_value());
            QCOMPARE(r->seenPixels.size(), s->scene.objects().size());
            std::vector<std::uint32_t> met(s->scene.objects().size(), 0);
            const glm::mat4 back = glm::inverse(projection_matrix(v.camera, aspect_of(v)) * view_matrix(v.camera));
            for (int y = 0; y < v.height; ++y)
                for (int x = 0; x < v.width; ++x) {
                    const glm::vec4 p =
                        back * glm::vec4((x + 0.5f) / v.width * 2 - 1, (y + 0.5f) / v.height * 2 - 1, 0.5f, 1);
                    const glm::vec3 way = glm::normalize(glm::vec3(p) / p.w - v.camera.eye);
                    if (const RayHit hit = rays.nearest({v.camera.eye, way}); hit.object >= 0)
                        ++met[std::size_t(hit.object)];
                }
            for (std::size_t i = 0; i < met.size(); ++i) { // edges fall to either side
                const double most = std::max(met[i], r->seenPixels[i]);
                QVERIFY2(std::abs(double(met[i]) - double(r->seenPixels[i])) <= 3 + 0.06 * most,
                         qPrintable(QString("%1: %2 rays, %3 pixels").arg(i).arg(met[i]).arg(r->seenPixels[i])));
                seen += met[i] > 0;
            }
        }
        QVERIFY(seen > 50);
    }

    /// Whatever the frame before showed: after every turn, after a cut, in the first frame.
    void the_device_leaves_out_nothing_that_shows() {
        const auto s = store();
        const auto views = round_about(s->open.project.walks[0], s->view, 12);
        for (const char* kind : device_kinds) {
            const Setup setup = setup_with({{"visibility.kind", kind}});
            const VisibilityAudit a = audited(s->scene, setup, views);
            qInfo("cold store, %s: %llu frames, %.1f of %.1f drawn, %.1f show, missing %llu", kind,
                  static_cast<unsigned long long>(a.frames), double(a.drawn) / double(a.frames),
                  double(a.inFrustum) / double(a.frames), double(a.seen) / double(a.frames),
                  static_cast<unsigned long long>(a.missing));
            QCOMPARE(a.missing, std::uint64_t(0));
            QVERIFY(a.drawn * 2 < a.inFrustum);
            const VisibilityAudit quay = [&] {
                const Demo d = demo(256, 144);
                std::vector<View> cameras;
                for (const Camera& c : d.cameras) {
                    cameras.push_back(d.view);
                    cameras.back().camera = c;
                }
                return audited(d.scene, setup, cameras);
            }();
            QCOMPARE(quay.missing, std::uint64_t(0));
            QVERIFY(quay.drawn < quay.inFrustum);
        }
    }

    /// The picture is the frustum's to the bit on every path, and passes draw less.
    void pictures_are_the_same_and_draws_are_fewer() {
        const Demo d = demo(200, 112);
        RenderOptions o;
        o.count = true;
        for (const char* path : {"forward", "additive", "deferred", "tiled-deferred", "clustered-forward"}) {
            Setup plain = setup_with({{"path.kind", path}, {"shadow.maps", "on"}, {"outline.kind", "through"}});
            (void)plain.set_text("outline.objects", object_name(d.scene, 200).id);
            View view = d.view;
            view.camera = d.cameras[4];
            const auto all = session().render(d.scene, plain, view, o);
            QVERIFY(all.has_value());
            for (const char* kind : device_kinds) {
                Setup setup = plain;
                (void)setup.set_text("visibility.kind", kind);
                const auto some = session().render(d.scene, setup, view, o);
                QVERIFY2(some.has_value(), some ? "" : some.error().what.c_str());
                QVERIFY2(some->picture.rgba == all->picture.rgba, path);
                const auto& told = some->told.at(told_visible);
                QVERIFY(told[0] < told[1]);
                std::uint64_t before = 0, after = 0;
                for (const PassRecord& p : some->passes)
                    for (const PassRecord& q : all->passes)
                        if (p.name == q.name && (p.family == "opaque" || p.name == "depth")) {
                            before += q.work.at("triangles");
                            after += p.work.at("triangles");
                        }
                QVERIFY2(after < before, path);
                QCOMPARE(some->passes[1].name, std::string("occluders"));
            }
        }
    }

    /// Both eyes, or several samples a pixel: nothing is left out, and the plan says so.
    void what_the_device_cannot_do_is_said() {
        const Demo d = demo(96, 54);
        Setup setup = setup_with({{"visibility.kind", "depth"}});
        View both = d.view;
        both.stereo = Stereo::twoPasses;
        const FramePlan stereo = plan_frame(d.scene, setup, both);
        QVERIFY(!stereo.resource(occluder_depth_resource) && stereo.notes.size() == 1);
        (void)setup.set_text("edges.kind", "multisample");
        const FramePlan several = plan_frame(d.scene, setup, d.view);
        QVERIFY(!several.resource(occluder_depth_resource));
        QVERIFY(session().render(d.scene, setup, d.view, {}).has_value());
    }

    void cells_leave_out_little_that_shows_and_portals_nothing() {
        const auto s = store();
        const Walk& walk = s->open.project.walks[0];
        // Portals.
        const Setup portals = setup_with({{"visibility.kind", "portals"}});
        auto rooms = find_rooms(s->scene, portals);
        QVERIFY2(rooms.has_value(), rooms ? "" : rooms.error().what.c_str());
        QCOMPARE(rooms->rooms, 60);
        for (const Gap& g : rooms->gaps) // floors and roofs are seen from inside only
            QVERIFY(g.from == 0 && !g.open && g.way.y != 0);
        QVERIFY(write_rooms(*rooms, rooms_file(s->scene.bakes, rooms->digest)).has_value());
        const auto views = round_about(walk, s->view, 7);
        const VisibilityAudit p = audited(s->scene, portals, views);
        QVERIFY2(p.notes.empty(), p.notes.empty() ? "" : p.notes[0].c_str());
        qInfo("portals: %.1f of %.1f drawn, %.1f show, missing %llu", double(p.drawn) / double(p.frames),
              double(p.inFrustum) / double(p.frames), double(p.seen) / double(p.frames),
              static_cast<unsigned long long>(p.missing));
        QCOMPARE(p.missing, std::uint64_t(0));
        QVERIFY(p.drawn * 2 < p.inFrustum);
        // A closed door cuts what is drawn to the room.
        Scene closed = s->scene;
        for (Door& d : closed.doors)
            d.open = 0;
        View inside = s->view;
        inside.camera.eye = {3, 1.7f, 3};
        inside.camera.aim = {6, 1.6f, 3.2f};
        const DrawList own = build_draw_list(closed, portals, inside);
        for (const Draw& d : own.opaque) {
            const auto& of = rooms->ofObject[std::size_t(d.object)];
            QVERIFY(std::count(of.begin(), of.end(), std::uint16_t(rooms->room_at(inside.camera.eye))) == 1);
        }
        QVERIFY(own.opaque.size() > 3 && own.opaque.size() < 20);
        // Cells around the same places.
        const Setup cells = setup_with({{"visibility.kind", "cells"}, {"visibility.patch", "0.7"}});
        const auto wanted = wanted_cells(s->open.project, s->scene, cells);
        QVERIFY(wanted.has_value());
        auto bake = CellBake::begin(s->scene, cells, *wanted);
        QVERIFY(bake.has_value());
        while (!*(*bake)->work(1000))
            ;
        const VisibilityAudit c = audited(s->scene, cells, views);
        QVERIFY2(c.notes.empty(), c.notes.empty() ? "" : c.notes[0].c_str());
        qInfo("cells: %.1f of %.1f drawn, %.1f show, missing %llu of at most %u pixels",
              double(c.drawn) / double(c.frames), double(c.inFrustum) / double(c.frames),
              double(c.seen) / double(c.frames), static_cast<unsigned long long>(c.missing), c.most_pixels());
        QVERIFY(c.missing * 1000 <= c.seen);
        QVERIFY(c.most_pixels() < 16);
        QVERIFY(c.drawn * 2 < c.inFrustum);
    }

    /// What either eye sees through doors is drawn for both: the picture is the one of all objects, to the bit. Without
    /// lamps: those without shadows shine through walls, and portals leave them out.
    void both_eyes_see_what_either_shows() {
        const auto s = store(160, 90);
        const Setup portals = setup_with({{"visibility.kind", "portals"}, {"ambient.kind", "gradient"}}),
                    all = setup_with({{"ambient.kind", "gradient"}});
        const auto rooms = find_rooms(s->scene, portals);
        QVERIFY(rooms.has_value() && write_rooms(*rooms, rooms_file(s->scene.bakes, rooms->digest)).has_value());
        const Scene scene = without_lights(s->scene);
        int left = 0;
        for (View view : views_along(s->open.project.walks[0], s->view, 15, 3))
            for (const Stereo stereo : {Stereo::twoPasses, Stereo::onePass}) {
                view.stereo = stereo;
                const auto some = session().render(scene, portals, view, {}),
                           whole = session().render(scene, all, view, {});
                QVERIFY2(some.has_value(), some ? "" : to_text(some.error()).c_str());
                QVERIFY(whole.has_value());
                QVERIFY(some->picture.rgba == whole->picture.rgba);
                left += int(build_draw_list(scene, portals, view).leftOut.size());
            }
        QVERIFY(left > 100);
    }

    /// Peeled layers count what is left of them only.
    void peeled_draws_are_those_that_are_left() {
        const Demo d = demo(160, 90);
        const auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        RenderOptions o;
        o.count = true;
        const Setup plain = setup_with({{"transparency.kind", "peeled"}});
        Setup queries = plain;
        (void)queries.set_text("visibility.kind", "queries");
        const auto draws = [](const FrameRecord& r) {
            for (const PassRecord& p : r.passes)
                if (p.name == "transparent") return p.work.at("draws");
            return std::uint64_t(0);
        };
        std::uint64_t before = 0, after = 0;
        for (const View& view :
             round_about(open->project.walks[1], d.view, 8)) { // panes of the quay lie behind the workshop's walls
            if (build_draw_list(d.scene, plain, view).blended.empty()) continue;
            const auto all = session().render(d.scene, plain, view, o),
                       some = session().render(d.scene, queries, view, o);
            QVERIFY(all.has_value() && some.has_value());
            QVERIFY(some->picture.rgba == all->picture.rgba);
            QVERIFY(draws(*some) > 0 && draws(*some) <= draws(*all));
            before += draws(*all);
            after += draws(*some);
        }
        QVERIFY2(
            after < before,
            qPrintable(QString("%1 of %2").arg(static_cast<qulonglong>(after)).arg(static_cast<qulonglong>(before))));
    }

    /// A lamp behind closed doors: no evaluation, no draw into its shadow map.
    void a_light_behind_closed_doors_costs_nothing() {
        const auto s = store(160, 90);
        const Setup setup = setup_with({{"visibility.kind", "portals"},
                                        {"path.kind", "clustered-forward"},
                                        {"shadow.maps", "on"},
                                        {"shadow.casters", "64"},
                                        {"shadow.update", "always"}});
        auto rooms = find_rooms(s->scene, setup);
        QVERIFY(rooms.has_value() && write_rooms(*rooms, rooms_file(s->scene.bakes, rooms->digest)).has_value());
        // One lamp, in the room beside the eye's; the way there is through one door.
        const Rooms::Between b = rooms->doors[0];
        for (Door& d : s->scene.doors)
            d.open = 0;
        for (Light& l : s->scene.lights)
            l.enabled = rooms->room_at(l.position) == b.front;
        View view = s->view;
        view.camera.eye = rooms->middles[std::size_t(b.back)];
        view.camera.aim = rooms->middles[std::size_t(b.front)];
        RenderOptions o;
        o.count = true;
        const auto work = [&](double open) {
            for (Door& d : s->scene.doors)
                if (d.id == b.door) d.open = float(open);
            const auto r = session().render(s->scene, setup, view, o);
            if (!r) qFatal("%s", to_text(r.error()).c_str());
            std::pair<std::uint64_t, std::uint64_t> out{0, 0};
            for (const PassRecord& p : r->passes) {
                out.first += p.work.at("lightEvaluations");
                if (p.family == "shadows") out.second += p.work.at("draws");
            }
            return out;
        };
        const auto open = work(1), closed = work(0);
        QVERIFY(open.first > 100 && open.second > 3);
        QCOMPARE(closed.first, std::uint64_t(0));
        QCOMPARE(closed.second, std::uint64_t(0));
    }

    /// With doors looked through, maps take what stands in rooms that their lamp reaches; the picture stays as it is.
    void casters_behind_doors_are_left_out_of_shadow_maps() {
        const auto s = store(160, 90);
        const Setup portals = setup_with({{"visibility.kind", "portals"},
                                          {"path.kind", "clustered-forward"},
                                          {"shadow.maps", "on"},
                                          {"shadow.casters", "16"}});
        Setup plain = portals;
        (void)plain.set_text("visibility.kind", "frustum");
        auto rooms = find_rooms(s->scene, portals);
        QVERIFY(rooms.has_value() && write_rooms(*rooms, rooms_file(s->scene.bakes, rooms->digest)).has_value());
        // One lamp with a long reach, where the eye is: what it lights of other rooms, it lights through doors.
        const int own = rooms->room_at(s->view.camera.eye);
        for (Light& l : s->scene.lights) {
            l.enabled = rooms->room_at(l.position) == own;
            l.range = 16;
        }
        const auto casters = [&](const Setup& setup) {
            const DrawList list = build_draw_list(s->scene, setup, s->view);
            std::size_t n = 0;
            for (const ShadowMap& m : shadow_set(s->scene, setup, s->view, list).maps)
                n += m.casters.size();
            return n;
        };
        QVERIFY(casters(portals) <= casters(plain));
        RenderOptions o;
        const auto a = session().render(s->scene, plain, s->view, o),
                   b = session().render(s->scene, portals, s->view, o);
        QVERIFY(a.has_value() && b.has_value());
        std::size_t other = 0;
        for (std::size_t i = 0; i < a->picture.rgba.size(); ++i)
            other += a->picture.rgba[i] != b->picture.rgba[i];
        QVERIFY2(other * 500 < a->picture.rgba.size(), qPrintable(QString::number(other)));
        for (Door& d : s->scene.doors)
            d.open = 0;
        const std::size_t all = casters(plain), some = casters(portals);
        QVERIFY2(some > 5 && some * 5 < all * 2, qPrintable(QString("%1 of %2").arg(some).arg(all)));
    }
};

MIROLUX_TEST(visibility_frame_test)
#include "visibility_frame_test.moc"
