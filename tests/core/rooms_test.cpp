#include "core/io/file.h"
#include "core/visibility/door_place.h"
#include "core/visibility/outside.h"
#include "support/setups.h"
#include "support/test_main.h"
#include "support/two_rooms.h"
#include <QTemporaryDir>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

Setup by_portals() {
    return setup_with({{"visibility.kind", "portals"}, {"visibility.occluder", "0.2"}});
}

Rooms found(const Scene& scene, const Setup& setup) {
    auto rooms = find_rooms(scene, setup);
    if (!rooms) qFatal("%s", to_text(rooms.error()).c_str());
    return *rooms;
}

Rooms kept(const Scene& scene, const Setup& setup) {
    const Rooms rooms = found(scene, setup);
    if (auto ok = write_rooms(rooms, rooms_file(scene.bakes, rooms.digest)); !ok)
        qFatal("%s", to_text(ok.error()).c_str());
    return rooms;
}

View looking(glm::vec3 eye, glm::vec3 aim) {
    View v;
    v.camera = {"eye", eye, aim, 1.1f, 0.05f};
    return v;
}

bool draws(const DrawList& list, int object) {
    return std::any_of(list.opaque.begin(), list.opaque.end(), [&](const Draw& d) { return d.object == object; });
}

} // namespace

/// Rooms between doors, and what is seen and lit through them.
class rooms_test : public QObject {
    Q_OBJECT
private slots:
    void space_on_both_sides_of_a_door_is_filled() {
        const TwoRooms t;
        const Rooms r = found(t.scene, by_portals());
        QCOMPARE(r.rooms, 2);
        QCOMPARE(r.doors.size(), std::size_t(1));
        QVERIFY2(r.gaps.empty(), r.remarks.empty() ? "" : r.remarks[0].c_str());
        const int first = r.room_at({1, 1.5f, 1}), second = r.room_at({7, 1.5f, 3});
        QVERIFY(first > 0 && second > 0 && first != second);
        QCOMPARE(r.doors[0].front, second); // it faces +X
        QCOMPARE(r.doors[0].back, first);
        QCOMPARE(r.room_at({-1, 1, 1}), 0);
        // Cells fill 4 x 3 x 4 m, less what stands in it, to within a cell at the walls.
        double cells[3] = {0, 0, 0};
        for (const std::uint16_t room : r.room)
            if (room != Rooms::nowhere) ++cells[room];
        for (const int room : {1, 2})
            QVERIFY(std::abs(cells[room] * 0.25 * 0.25 * 0.25 - 48) < 5);
        const auto in = [&](int object) { return r.ofObject[std::size_t(object)]; };
        QVERIFY(in(t.inFirst) == std::vector<std::uint16_t>{std::uint16_t(first)});
        QVERIFY(in(t.ahead) == std::vector<std::uint16_t>{std::uint16_t(second)});
        QVERIFY(in(0).size() == 3); // the floor: both, and the outside below it
    }

    void what_no_door_marks_is_found() {
        TwoRooms slit(0.4f);
        const Rooms r = found(slit.scene, by_portals());
        // A slit of 20 cm beside the door: either the fill gets through, or rays do; and it is said.
        QVERIFY(r.rooms == 1 || !r.gaps.empty());
        QVERIFY(!r.remarks.empty());
        TwoRooms open;
        open.scene.doors[0].center = {2, 1.1f, 2}; // in the middle of a room
        const Rooms nowhere = found(open.scene, by_portals());
        QVERIFY(nowhere.doors[0].front == nowhere.doors[0].back);
        QVERIFY(nowhere.remarks[0].find("no wall") != std::string::npos);
        TwoRooms solid(0, false); // the door stands before a wall without an opening
        const Rooms walled = found(solid.scene, by_portals());
        QVERIFY(walled.doors.empty() && walled.remarks[0].find("within something") != std::string::npos);
        solid.scene.doors.clear();
        QVERIFY(!find_rooms(solid.scene, by_portals()).has_value());
        solid.scene.doors = {open.scene.doors[0]};
        solid.scene.doors[0].center = {200, 0, 0};
        QVERIFY(!find_rooms(solid.scene, by_portals()).has_value());
        std::atomic<bool> stop{true};
        QVERIFY(!find_rooms(open.scene, by_portals(), &stop).has_value());
    }

    /// Rooms drawn by hand hold where filling finds none, and what gets past them is found as ever.
    void rooms_are_drawn_by_hand() {
        TwoRooms t(0.4f); // the wall has a hole: filled, both rooms are one, or a gap joins them
        t.scene.drawnRooms = {{4, "pantry", {0, 0, 0}, {4.1f, 3, 4}}, {7, "hall", {4.1f, 0, 0}, {8.2f, 3, 4}}};
        const Rooms r = found(t.scene, by_portals());
        QCOMPARE(r.rooms, 2);
        QCOMPARE(r.names, (std::vector<std::string>{"pantry", "hall"}));
        QCOMPARE(r.room_at({1, 1.5f, 1}), 1);
        QCOMPARE(r.room_at({7, 1.5f, 3}), 2);
        QCOMPARE(r.room_at({-1, 1, 1}), 0);
        QCOMPARE(r.doors.size(), std::size_t(1));
        QVERIFY(r.doors[0].front == 2 && r.doors[0].back == 1);
        // The hole is a gap that is open, and lies where the hole is.
        const auto hole =
            std::find_if(r.gaps.begin(), r.gaps.end(), [](const Gap& g) { return g.from == 1 && g.to == 2 && g.open; });
        QVERIFY(hole != r.gaps.end());
        QVERIFY(hole->area.low.x < 4.2f && hole->area.high.x > 4.0f);
        QVERIFY(std::any_of(r.remarks.begin(), r.remarks.end(), [](const std::string& s) {
            return s.find("\"hall\" is seen from \"pantry\" where no door is") != std::string::npos;
        }));
        // Half of a room, with no wall to the other half: the cut is a gap from one to the other.
        TwoRooms half;
        half.scene.drawnRooms = {{0, "corner", {0, 0, 0}, {2, 3, 4}}};
        const Rooms cut = found(half.scene, by_portals());
        QCOMPARE(cut.rooms, 3);
        QVERIFY(cut.room_at({1, 1.5f, 1}) == 1 && cut.room_at({3, 1.5f, 1}) != 1);
        QVERIFY(std::any_of(cut.gaps.begin(), cut.gaps.end(), [](const Gap& g) {
            return g.from == 1 && g.open && std::abs(g.area.center().x - 2) < 0.3f && g.way == glm::ivec3(1, 0, 0);
        }));
        // Another draws over it: the first has the space; one within a wall has none, and both are said.
        half.scene.drawnRooms.push_back({1, "second", {0.5f, 0.5f, 0.5f}, {1.5f, 2, 2}});
        const Rooms over = found(half.scene, by_portals());
        QCOMPARE(over.room_at({1, 1.5f, 1}), 1);
        QVERIFY(over.remarks[0].find("second has no free space") != std::string::npos);
        // Kept, and stale when a side has moved.
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        kept(t.scene, by_portals());
        const auto again = rooms_of(t.scene, by_portals());
        QVERIFY(again && again->names == r.names && again->room == r.room);
        move_side(t.scene.drawnRooms[0], 1, 3.5f);
        QVERIFY(!rooms_of(t.scene, by_portals()));
        move_side(t.scene.drawnRooms[0], 1, -7); // never past the other side
        QVERIFY(t.scene.drawnRooms[0].high.x > t.scene.drawnRooms[0].low.x);
    }

    /// The box around an eye is that between the walls, whatever stands in the room and though a door is open.
    void a_room_is_fitted_between_walls() {
        const TwoRooms t;
        const RayScene rays(t.scene);
        for (const glm::vec3 eye : {glm::vec3(1.2f, 1.6f, 1.5f), glm::vec3(2, 1, 2), glm::vec3(3, 2, 3)}) {
            const DrawnRoom r = room_around(rays, {}, eye);
            QVERIFY2(glm::length(r.low) < 0.02f && glm::length(r.high - glm::vec3(4, 3, 4)) < 0.02f,
                     qPrintable(QString("%1 %2 %3").arg(r.high.x).arg(r.high.y).arg(r.high.z)));
        }
    }

    void a_room_ends_at_its_doors() {
        const TwoRooms t(0, true);
        const RayScene rays(t.scene);
        Door wide = t.door; // across the whole room, where no wall is
        wide.center = {2.5f, 1.5f, 2};
        wide.size = {6, 4};
        const DrawnRoom r = room_around(rays, {wide}, {1, 1.5f, 2});
        QVERIFY(std::abs(r.high.x - 2.5f) < 0.01f && std::abs(r.low.x) < 0.02f && std::abs(r.high.z - 4) < 0.02f);
    }

    /// Random eyes in both rooms, looking anywhere: what segments to random points of a box reach must be drawn,
    /// whatever the door; and through a closed one nothing is.
    void nothing_that_shows_through_an_open_door_is_left_out_data() {
        QTest::addColumn<bool>("drawn");
        QTest::newRow("found") << false;
        QTest::newRow("drawn by hand") << true;
    }
    void nothing_that_shows_through_an_open_door_is_left_out() {
        QFETCH(bool, drawn);
        TwoRooms t;
        if (drawn) t.scene.drawnRooms = {{0, "one", {0, 0, 0}, {4.1f, 3, 4}}, {1, "other", {4.1f, 0, 0}, {8.2f, 3, 4}}};
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_portals();
        const Rooms rooms = kept(t.scene, setup);
        std::mt19937 random(11);
        const auto part = [&] { return float(random() >> 8) / 16777216.0f; };
        for (const std::string& remark : rooms.remarks)
            qInfo("%s", remark.c_str());
        int through = 0, left = 0;
        for (int i = 0; i < 300; ++i) {
            const glm::vec3 low = i % 2 ? glm::vec3(0.15f, 0.8f, 0.15f) : glm::vec3(4.95f, 0.9f, 0.15f);
            const glm::vec3 eye = low + glm::vec3(i % 2 ? 3.7f : 3.1f, 2.0f, 3.7f) * glm::vec3(part(), part(), part());
            const View view = looking(eye, eye + glm::vec3(part() - 0.5f, 0.6f * (part() - 0.5f), part() - 0.5f));
            const DrawList list = build_draw_list(t.scene, setup, view);
            QVERIFY2(list.visibilityNote.empty(), list.visibilityNote.c_str());
            const glm::mat4 m = projection_matrix(view.camera, aspect_of(view)) * view_matrix(view.camera);
            for (std::size_t o = 0; o < t.solids.size(); ++o) {
                bool shows = false;
                for (int k = 0; k < 60 && !shows; ++k) {
                    const Box& b = t.solids[o];
                    glm::vec3 to = b.low + b.size() * glm::vec3(part(), part(), part());
                    const int side = int(random() % 6);
                    to[side / 2] = side % 2 ? b.high[side / 2] : b.low[side / 2];
                    const glm::vec4 clip = m * glm::vec4(to, 1);
                    shows = clip.w > clip.z && std::abs(clip.x) < clip.w && std::abs(clip.y) < clip.w &&
                            sees_past(t.solids, eye, to, int(o));
                }
                if (shows) QVERIFY2(draws(list, int(o)), t.scene.asset->objectNames[o].id.c_str());
                if (int(o) == (i % 2 ? t.ahead : t.inFirst)) through += draws(list, int(o));
            }
            left += int(list.leftOut.size());
        }
        qInfo("through the door: %d, left out: %d", through, left);
        QVERIFY(through > 20 && left > 50);
        // Closed: from well within a room nothing of the other one is drawn.
        t.scene.doors[0].open = 0;
        for (int i = 0; i < 50; ++i) {
            const glm::vec3 eye(0.5f + 2.5f * part(), 1.6f, 0.5f + 3 * part());
            const DrawList list = build_draw_list(t.scene, setup, looking(eye, {4, 1.2f, 2}));
            QVERIFY(!draws(list, t.ahead) && !draws(list, t.aside));
        }
        // Open from below by a fifth: only what lies low shows through it.
        t.scene.doors[0].open = 0.2f;
        const Sight low = look_through_doors(rooms, t.scene, looking({1, 2.4f, 2}, {4, 1.5f, 2}));
        t.scene.doors[0].open = 1;
        const Sight whole = look_through_doors(rooms, t.scene, looking({1, 2.4f, 2}, {4, 1.5f, 2}));
        QCOMPARE(low.chain.size(), std::size_t(1));
        QVERIFY(low.chain[0].window.high.y < whole.chain[0].window.high.y - 0.1f);
    }

    void light_gets_where_doors_let_it() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_portals();
        const Rooms rooms = kept(t.scene, setup);
        for (const float x : {1.0f, 7.0f}) {
            Light l;
            l.id = int(t.scene.lights.size());
            l.position = {x, 2.5f, 2};
            l.range = 10;
            t.scene.lights.push_back(l);
        }
        const View view = looking({1, 1.6f, 1}, {4, 1.2f, 2});
        QCOMPARE(build_draw_list(t.scene, setup, view).lights.size(), std::size_t(2));
        t.scene.doors[0].open = 0;
        const DrawList closed = build_draw_list(t.scene, setup, view);
        QCOMPARE(closed.lights.size(), std::size_t(1));
        QCOMPARE(closed.lightsBehind, 1);
        QCOMPARE(closed.lights[0].id, 0);
        // A short reach ends before the door.
        t.scene.doors[0].open = 1;
        const int second = rooms.room_at({7, 1.5f, 2});
        QVERIFY(lit_rooms(rooms, t.scene, {1, 1.5f, 2}, 3.5f)[std::size_t(second)]);
        QVERIFY(!lit_rooms(rooms, t.scene, {1, 1.5f, 2}, 2.5f)[std::size_t(second)]);
    }

    void an_object_opens_its_door() {
        TwoRooms t;
        auto asset = std::make_shared<SceneAsset>(*t.scene.asset);
        const int leaf = add_solid(*asset, "leaf", {{4.05f, 0, 1.5f}, {4.15f, 2.2f, 2.5f}});
        t.scene.asset = asset;
        Door& d = t.scene.doors[0];
        d.object = "leaf";
        d.travel = 2;
        d.open = 0; // where the file has the leaf
        QCOMPARE(open_share(t.scene, d), 0.0);
        ObjectEdit e = edit_of({}, *asset, leaf);
        e.translation.y = 1;
        t.scene.placed = place_objects(*asset, {e});
        QVERIFY(std::abs(open_share(t.scene, d) - 0.5) < 1e-6);
        e.translation.y = 3;
        t.scene.placed = place_objects(*asset, {e});
        QCOMPARE(open_share(t.scene, d), 1.0);
        d.open = 1; // in the file it stands open: the leaf closes it
        QCOMPARE(open_share(t.scene, d), 0.0);
        // A leaf hides nothing and joins the digest wherever it is: rooms stay as the door opens.
        const std::string digest = rooms_digest(t.scene, by_portals());
        QVERIFY(!stillness_of(t.scene, by_portals()).hides[std::size_t(leaf)]);
        t.scene.placed = nullptr;
        QCOMPARE(rooms_digest(t.scene, by_portals()), digest);
        QCOMPARE(found(t.scene, by_portals()).rooms, 2);
    }

    void the_opening_ahead_is_measured() {
        const TwoRooms t;
        const RayScene rays(t.scene);
        for (const glm::vec3& eye :
             {glm::vec3(1, 1.6f, 2.1f), glm::vec3(2.5f, 1.2f, 3.2f), glm::vec3(7.5f, 1.7f, 1.6f)}) {
            const auto d = door_ahead(rays, eye, glm::vec3(4.1f, 1.2f, 2) - eye);
            QVERIFY(d.has_value());
            QVERIFY2(glm::length(d->center - t.door.center) < 0.12f,
                     qPrintable(QString("%1 %2 %3").arg(d->center.x).arg(d->center.y).arg(d->center.z)));
            QVERIFY(glm::length(d->size - t.door.size) < 0.1f);
            QVERIFY(std::abs(std::sin(d->turn)) > 0.995f);
        }
        QVERIFY(!door_ahead(rays, {1, 1.6f, 2}, {-1, 0, 0}).has_value()); // a wall
        QVERIFY(!door_ahead(rays, {1, 1.6f, 2}, {0, -1, 0}).has_value()); // the floor
        const TwoRooms walled(0, false);
        QVERIFY(!door_ahead(RayScene(walled.scene), {1, 1.6f, 2}, {1, 0, 0}).has_value());
    }

    void the_outside_camera_cuts_at_the_section() {
        const glm::vec3 over(3, 1.7f, 2);
        for (const float pitch : {0.4f, 1.0f, 1.5f}) {
            const Camera c = outside_camera(over, 30, 0.7f, pitch, 2.2f);
            QVERIFY(std::abs(glm::length(c.eye - c.aim) - 30) < 1e-3f);
            const glm::vec3 cut = c.eye + c.near * glm::normalize(c.aim - c.eye);
            QVERIFY(std::abs(cut.y - 2.2f) < 1e-3f);
        }
    }

    void ways_through_a_door_are_told_from_ways_past_it() {
        Door d;
        d.center = {0, 1, 0};
        d.size = {2, 2};
        QVERIFY(leads_through(d, {0, 1, 1}, {0, 1, -1}) && leads_through(d, {0.9f, 0.2f, -1}, {0.9f, 1.8f, 1}));
        QVERIFY(!leads_through(d, {1.2f, 1, 1}, {1.2f, 1, -1}) && !leads_through(d, {0, 1, 1}, {0, 1, 0.5f}) &&
                !leads_through(d, {0, 2.2f, 1}, {0, 2.2f, -1}));
        d.turn = glm::radians(90.0f); // faces +X
        QVERIFY(leads_through(d, {1, 1, 0.9f}, {-1, 1, 0.9f}) && !leads_through(d, {1, 1, 1.2f}, {-1, 1, 1.2f}));
        QVERIFY(glm::length(plane_of(d).normal - glm::vec3(1, 0, 0)) < 1e-6f);
        // Seen against its normal its first corner is on the left.
        const DoorPlane p = plane_of(d);
        QVERIFY(glm::length(glm::normalize(glm::cross(p.corners[1] - p.corners[0], p.corners[3] - p.corners[0])) -
                            p.normal) < 1e-5f);
    }

    void rooms_come_back_from_their_file_and_damage_is_told() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_portals();
        const View view = looking({1, 1.6f, 1}, {4, 1.2f, 2});
        QVERIFY(build_draw_list(t.scene, setup, view).visibilityNote.find("No rooms") != std::string::npos);
        const Rooms rooms = kept(t.scene, setup);
        const auto file = rooms_file(t.scene.bakes, rooms.digest);
        const auto read = read_rooms(file);
        QVERIFY(read.has_value());
        QVERIFY(read->room == rooms.room && read->ofObject == rooms.ofObject && read->rooms == rooms.rooms);
        QVERIFY(read->doors[0].front == rooms.doors[0].front && read->digest == rooms.digest && read->low == rooms.low);
        const auto bytes = *read_file(file);
        for (const std::size_t n : {std::size_t(0), std::size_t(10), bytes.size() / 2, bytes.size() - 1}) {
            QVERIFY(write_file_atomically(file, bytes.data(), n).has_value());
            QVERIFY(!read_rooms(file).has_value());
            const DrawList list = build_draw_list(t.scene, setup, view);
            QVERIFY(list.leftOut.empty() && list.visibilityNote.find(file.string()) != std::string::npos);
        }
        std::mt19937 random(3);
        for (int i = 0; i < 60; ++i) {
            auto other = bytes;
            other[i < 30 ? random() % 200 : random() % other.size()] = std::uint8_t(random());
            QVERIFY(write_file_atomically(file, other.data(), other.size()).has_value());
            (void)build_draw_list(t.scene, setup, view);
        }
    }
};

MIROLUX_TEST(rooms_test)
#include "rooms_test.moc"
