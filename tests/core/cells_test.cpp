#include "core/io/file.h"
#include "core/visibility/cells.h"
#include "support/setups.h"
#include "support/test_main.h"
#include "support/two_rooms.h"
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>
#include <sys/resource.h>

using namespace mirolux;
using namespace mirolux::test;

namespace {

Setup by_cells(const std::vector<std::pair<const char*, const char*>>& more = {}) {
    Setup s = setup_with({{"visibility.kind", "cells"},
                          {"visibility.cell", "1"},
                          {"visibility.patch", "2"},
                          {"visibility.occluder", "0.2"}});
    for (const auto& [key, text] : more)
        if (!s.set_text(key, text)) qFatal("%s", key);
    return s;
}

VisibleSets baked(const Scene& scene, const Setup& setup, const std::vector<CellPlace>& cells) {
    auto bake = CellBake::begin(scene, setup, cells);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    for (;;) {
        const auto over = (*bake)->work(1000);
        if (!over) qFatal("%s", to_text(over.error()).c_str());
        if (*over) return (*bake)->sets();
    }
}

std::vector<CellPlace> first_room() {
    std::vector<CellPlace> out;
    for (int z = 0; z < 4; ++z)
        for (int y = 0; y < 3; ++y)
            for (int x = 0; x < 4; ++x)
                out.push_back({x, y, z});
    std::sort(out.begin(), out.end());
    return out;
}

} // namespace

/// Visibility by cells, computed beforehand.
class cells_test : public QObject {
    Q_OBJECT
private slots:
    void rays_of_a_cell_follow_from_patch_and_confidence() {
        const Setup s = by_cells({{"visibility.patch", "1"}, {"visibility.confidence", "95"}});
        const double share = std::pow(M_PI / 180, 2) / (4 * M_PI);
        const double n = double(rays_of_cell(s));
        QVERIFY(std::pow(1 - share, n) <= 0.05 && std::pow(1 - share, n - 2) > 0.05);
        // Half the patch: four times the rays; 99.75 % is twice as sure as 95 %.
        QVERIFY(std::abs(double(rays_of_cell(by_cells({{"visibility.patch", "0.5"}}))) / n - 4) < 0.01);
        QVERIFY(
            std::abs(double(rays_of_cell(by_cells({{"visibility.patch", "1"}, {"visibility.confidence", "99.75"}}))) /
                         n -
                     2) < 0.01);
    }

    /// Held against segments between random eyes of a cell and random points of each box, tested box by box.
    void sets_hold_what_an_eye_in_the_cell_sees() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells({{"visibility.patch", "0.5"}});
        const VisibleSets sets = baked(t.scene, setup, first_room());
        QCOMPARE(sets.cells.size(), std::size_t(48));
        std::mt19937 random(5);
        const auto part = [&] { return float(random() >> 8) / 16777216.0f; };
        int missing = 0, surplus = 0, hidden = 0, all = 0;
        for (std::size_t c = 0; c < sets.cells.size(); ++c)
            for (std::size_t o = 0; o < t.solids.size(); ++o) {
                const Box& box = t.solids[o];
                int seen = 0;
                const int pairs = 4000;
                for (int i = 0; i < pairs; ++i) {
                    const CellPlace& p = sets.cells[c];
                    const glm::vec3 eye = glm::vec3(p.x, p.y, p.z) + glm::vec3(part(), part(), part());
                    glm::vec3 to = box.low + box.size() * glm::vec3(part(), part(), part());
                    const int side = static_cast<int>(random() % 6); // onto its surface
                    to[side / 2] = side % 2 ? box.high[side / 2] : box.low[side / 2];
                    seen += sees_past(t.solids, eye, to, static_cast<int>(o));
                }
                const bool held = has_bit(sets.seen[c], o);
                ++all;
                hidden += !held;
                missing += !held && seen > pairs / 50;
                surplus += held && seen == 0;
            }
        qInfo("%d of %d pairs of cell and object hidden, %d missing, %d surplus", hidden, all, missing, surplus);
        QCOMPARE(missing, 0);
        QVERIFY(surplus * 50 < all);
        QVERIFY(hidden > 20);
        // From the far corner the chest beside the opening is hidden, the table ahead is not.
        const int corner = sets.cell_at({0.5f, 0.5f, 2.0f});
        QVERIFY(corner >= 0 && !has_bit(sets.seen[std::size_t(corner)], std::size_t(t.aside)));
        QVERIFY(has_bit(sets.seen[std::size_t(corner)], std::size_t(t.ahead)));
    }

    void a_closed_gap_and_small_occluders_count_as_asked() {
        // Through a slit of 20 cm alone the second room is seen; closed it is not.
        TwoRooms t(0.4f);
        t.scene.doors.clear();
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        // A leaf in the opening leaves the slit.
        auto asset = std::make_shared<SceneAsset>(*t.scene.asset);
        (void)add_solid(*asset, "leaf", {{4.05f, 0, 1.5f}, {4.15f, 2.2f, 2.5f}});
        t.scene.asset = asset;
        const std::vector<CellPlace> cell{{1, 1, 0}};
        const auto table = std::size_t(t.ahead);
        QVERIFY(has_bit(baked(t.scene, by_cells({{"visibility.patch", "0.5"}}), cell).seen[0], table));
        QVERIFY(!has_bit(
            baked(t.scene, by_cells({{"visibility.patch", "0.5"}, {"visibility.gap", "0.3"}}), cell).seen[0], table));
        // What is smaller than the least occluder hides nothing, but is seen.
        const VisibleSets sets = baked(t.scene, by_cells({{"visibility.occluder", "5"}}), cell);
        QVERIFY(has_bit(sets.seen[0], table) && has_bit(sets.seen[0], std::size_t(t.aside)));
    }

    void what_moves_hides_nothing_and_makes_nothing_stale() {
        TwoRooms t(0, false);
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells();
        const std::vector<CellPlace> cell{{1, 1, 1}};
        const auto table = std::size_t(t.ahead);
        int wall = 0;
        while (t.scene.asset->objectNames[std::size_t(wall)].id != "wall")
            ++wall;
        QVERIFY(!has_bit(baked(t.scene, setup, cell).seen[0], table));
        const std::string still = cells_digest(t.scene, setup);
        ObjectEdit e = edit_of({}, *t.scene.asset, wall);
        e.standing = Standing::moving;
        t.scene.placed = place_objects(*t.scene.asset, {e});
        QVERIFY(cells_digest(t.scene, setup) != still);
        QVERIFY(has_bit(baked(t.scene, setup, cell).seen[0], table));
        // Where it goes then changes nothing; a thing that is marked as still makes them stale when it is moved.
        const std::string moving = cells_digest(t.scene, setup);
        e.translation.z = 2;
        t.scene.placed = place_objects(*t.scene.asset, {e});
        QCOMPARE(cells_digest(t.scene, setup), moving);
        e.standing = Standing::still;
        t.scene.placed = place_objects(*t.scene.asset, {e});
        const std::string there = cells_digest(t.scene, setup);
        e.translation.z = 3;
        t.scene.placed = place_objects(*t.scene.asset, {e});
        QVERIFY(there != moving && cells_digest(t.scene, setup) != there);
    }

    void the_draw_list_leaves_out_what_the_cell_does_not_see() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells({{"visibility.growth", "0"}});
        View view;
        view.camera = {"eye", {0.5f, 0.5f, 2.0f}, {4, 0.5f, 2}, 1.2f, 0.05f};
        // Nothing was computed: all is drawn, and it is said why.
        const DrawList none = build_draw_list(t.scene, setup, view);
        QVERIFY(none.leftOut.empty() && none.visibilityNote.find("No cells") != std::string::npos);
        const VisibleSets sets = baked(t.scene, setup, first_room());
        const DrawList some = build_draw_list(t.scene, setup, view);
        QVERIFY(some.visibilityNote.empty());
        QVERIFY(std::count(some.leftOut.begin(), some.leftOut.end(), t.aside) == 1);
        QCOMPARE(some.opaque.size() + some.leftOut.size(), none.opaque.size());
        // In no cell: all is drawn again.
        view.camera.eye = {6, 1.5f, 3};
        const DrawList outside = build_draw_list(t.scene, setup, view);
        QVERIFY(outside.leftOut.empty() && outside.visibilityNote.find("no cell") != std::string::npos);
        // With growth more is kept, never less.
        view.camera.eye = {0.5f, 0.5f, 2.0f};
        const DrawList grown = build_draw_list(t.scene, by_cells({{"visibility.growth", "2"}}), view);
        QVERIFY(grown.leftOut.size() <= some.leftOut.size());
        // What is left is what the list of these objects alone has.
        std::vector<bool> kept(t.scene.objects().size(), true);
        for (const int o : some.leftOut)
            kept[std::size_t(o)] = false;
        const DrawList only = with_only(none, t.scene, kept);
        QCOMPARE(only.opaque.size(), some.opaque.size());
        QCOMPARE(only.triangles, some.triangles);
    }

    void a_stopped_bake_goes_on_where_it_was() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells();
        const std::vector<CellPlace> cells = first_room();
        std::size_t done = 0;
        {
            auto bake = CellBake::begin(t.scene, setup, cells);
            QVERIFY(bake.has_value());
            std::atomic<bool> stop{true}; // after the cells that are under way
            const auto over = (*bake)->work(1e6, &stop);
            QVERIFY(over.has_value() && !*over);
            done = (*bake)->progress().done;
            QVERIFY(done > 0 && done < cells.size());
        }
        auto again = CellBake::begin(t.scene, setup, cells);
        QVERIFY(again.has_value());
        QCOMPARE((*again)->progress().done, done);
        while (!*(*again)->work(500))
            ;
        // The same as in one go.
        const QTemporaryDir other;
        Scene elsewhere = t.scene;
        elsewhere.bakes = other.path().toStdString();
        const VisibleSets whole = baked(elsewhere, setup, cells);
        QVERIFY(whole.cells == (*again)->sets().cells);
        QVERIFY(whole.seen == (*again)->sets().seen);
    }

    /// A disk that takes no more: an error with place and remedy; what was kept before is still there, and so is what
    /// was computed since, to be kept once there is room.
    void a_full_disk_loses_nothing() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells();
        const std::vector<CellPlace> cells = first_room();
        auto bake = CellBake::begin(t.scene, setup, cells);
        QVERIFY(bake.has_value());
        std::atomic<bool> stop{true};
        QVERIFY((*bake)->work(1e6, &stop).has_value() && (*bake)->keep().has_value());
        const auto file = cells_file(t.scene.bakes, (*bake)->sets().digest);
        const auto bytes = *read_file(file);
        rlimit before{};
        getrlimit(RLIMIT_FSIZE, &before);
        const auto was = std::signal(SIGXFSZ, SIG_IGN);
        rlimit full = before;
        full.rlim_cur = 64; // no file grows beyond: as a full disk, a write ends short
        setrlimit(RLIMIT_FSIZE, &full);
        Result<void> kept = {};
        for (int i = 0; i < 100 && kept; ++i) {
            const auto over = (*bake)->work(50);
            kept = over ? (*bake)->keep() : tl::unexpected(over.error());
        }
        setrlimit(RLIMIT_FSIZE, &before);
        std::signal(SIGXFSZ, was);
        QVERIFY(!kept.has_value());
        QVERIFY2(kept.error().where.find(folder.path().toStdString()) == 0 && !kept.error().remedy.empty(),
                 to_text(kept.error()).c_str());
        QVERIFY(*read_file(file) == bytes);
        const std::size_t done = (*bake)->progress().done;
        QVERIFY(done > 0);
        QVERIFY((*bake)->keep().has_value());
        const auto again = read_cells(file);
        QVERIFY(again.has_value());
        QCOMPARE(again->cells.size(), done);
        // Rooms likewise.
        const auto rooms = find_rooms(t.scene, setup);
        QVERIFY(rooms.has_value());
        const auto place = rooms_file(t.scene.bakes, rooms->digest);
        std::signal(SIGXFSZ, SIG_IGN);
        setrlimit(RLIMIT_FSIZE, &full);
        const auto none = write_rooms(*rooms, place);
        setrlimit(RLIMIT_FSIZE, &before);
        std::signal(SIGXFSZ, was);
        QVERIFY(!none.has_value() && !std::filesystem::exists(place));
    }

    void damaged_files_are_named_and_set_aside() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const Setup setup = by_cells();
        const VisibleSets sets = baked(t.scene, setup, {{1, 1, 1}, {2, 1, 1}});
        const auto file = cells_file(t.scene.bakes, sets.digest);
        const auto read = read_cells(file);
        QVERIFY(read.has_value() && read->cells == sets.cells && read->seen == sets.seen);
        const auto bytes = *read_file(file);
        View view;
        view.camera.eye = {1.5f, 1.5f, 1.5f};
        for (std::size_t n = 0; n < bytes.size(); n += 1 + n / 16) { // cut off anywhere
            QVERIFY(write_file_atomically(file, bytes.data(), n).has_value());
            const auto cut = read_cells(file);
            QVERIFY(!cut.has_value() && cut.error().where == file.string() && !cut.error().remedy.empty());
        }
        std::mt19937 random(3);
        for (int i = 0; i < 400; ++i) { // any byte another: it is read or refused, never worse
            auto other = bytes;
            other[random() % other.size()] = std::uint8_t(random());
            QVERIFY(write_file_atomically(file, other.data(), other.size()).has_value());
            (void)read_cells(file);
            const DrawList list = build_draw_list(t.scene, setup, view);
            QVERIFY(list.opaque.size() + list.leftOut.size() > 0 || !list.visibilityNote.empty());
        }
        QVERIFY(write_file_atomically(file, bytes.data(), bytes.size() / 2).has_value());
        QVERIFY(build_draw_list(t.scene, setup, view).visibilityNote.find(file.string()) != std::string::npos);
        auto bake = CellBake::begin(t.scene, setup, {{1, 1, 1}});
        QVERIFY(bake.has_value());
        QVERIFY((*bake)->remark().find("set aside") != std::string::npos);
        QVERIFY(std::filesystem::exists(file.string() + ".damaged"));
        while (!*(*bake)->work(500))
            ;
        QVERIFY(read_cells(file).has_value());
        // A folder that cannot be made is an error with its place.
        t.scene.bakes = file.string() + "/beneath a file";
        const auto no = CellBake::begin(t.scene, setup, {{1, 1, 1}});
        QVERIFY(!no.has_value() && no.error().where == t.scene.bakes);
        t.scene.bakes.clear();
        QVERIFY(!CellBake::begin(t.scene, setup, {{1, 1, 1}}).has_value());
    }

    void cells_are_wanted_along_walks_on_floors_and_over_the_box() {
        TwoRooms t;
        Project p;
        p.cameras = {{"eye", {1, 1.7f, 1}, {2, 1.7f, 1}}};
        p.view.camera = p.cameras[0];
        p.walks = {{"walk", 0.9f, 0, {{0, {1, 1.7f, 2}, {2, 1.7f, 2}}, {4, {7, 1.7f, 2}, {8, 1.7f, 2}}}}};
        const auto wanted = [&](const char* cover) {
            return wanted_cells(p, t.scene, by_cells({{"visibility.cover", cover}}));
        };
        const auto holds = [](const std::vector<CellPlace>& cells, CellPlace c) {
            return std::binary_search(cells.begin(), cells.end(), c);
        };
        const auto walk = wanted("walk");
        QVERIFY(walk.has_value());
        for (int x = 1; x < 7; ++x)
            QVERIFY(holds(*walk, {x, 1, 2}));
        QVERIFY(!holds(*walk, {6, 1, 0}));
        const auto floor = wanted("floor");
        QVERIFY(floor.has_value());
        for (int x = 0; x < 8;
             ++x) // through the opening into the other room, at the height of an eye; never above the roof
            QVERIFY2(holds(*floor, {x, 1, 1}), qPrintable(QString::number(x)));
        QVERIFY(std::none_of(floor->begin(), floor->end(), [](const CellPlace& c) { return c.y > 2 || c.y < 0; }));
        const auto box = wanted("box");
        QVERIFY(box.has_value());
        QCOMPARE(box->size(), std::size_t(10 * 5 * 6)); // from -0.2 to 8.4, 3.2, 4.2
        Setup tiny = by_cells({{"visibility.cover", "box"}, {"visibility.cell", "0.5"}});
        auto wide = std::make_shared<SceneAsset>(*t.scene.asset);
        (void)add_solid(*wide, "far", {{500, 0, 500}, {501, 1, 501}});
        t.scene.asset = wide;
        const auto many = wanted_cells(p, t.scene, tiny);
        QVERIFY(!many.has_value() && many.error().where == "visibility.cell");
    }
};

MIROLUX_TEST(cells_test)
#include "cells_test.moc"
