#include "core/bake/probe_grid.h"
#include "core/bake/stale_bakes.h"
#include "core/io/file.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_probe_grid {

ProbeGrid computed(const Scene& scene, const Setup& setup, const ProbeGridOptions& options) {
    auto bake = ProbeGridBake::begin(scene, setup, options);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    if (auto ok = (*bake)->keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return (*bake)->grid();
}

/// Two rooms without a way between them, light in the first.
struct Parted {
    TwoRooms rooms{0, false};
    QTemporaryDir folder;
    Parted() {
        rooms.scene.bakes = folder.path().toStdString();
        rooms.scene.lights = {lamp({2, 2.5f, 2}, 200)};
    }
};

} // namespace mirolux::test_probe_grid
using namespace mirolux::test_probe_grid;

/// Probes in space: their light, their distances, what leaks, and their files.
class probe_grid_test : public QObject {
    Q_OBJECT
private slots:
    void the_octahedron_is_turned_there_and_back() {
        std::mt19937 random(3);
        std::normal_distribution<double> any;
        for (int i = 0; i < 2000; ++i) {
            const glm::dvec3 d = glm::normalize(glm::dvec3(any(random), any(random), any(random)));
            QVERIFY(glm::distance(of_octahedral(octahedral(d)), d) < 1e-9);
        }
        // A texel beyond the edge is the one whose direction goes on there.
        for (int k = 0; k < 8; ++k)
            for (const glm::ivec2 beyond : {glm::ivec2(-1, k), {8, k}, {k, -1}, {k, 8}}) {
                const glm::ivec2 inside = glm::clamp(beyond, glm::ivec2(0), glm::ivec2(7)),
                                 folded = folded_texel(beyond, 8);
                const auto way = [](const glm::ivec2& t) { return of_octahedral((glm::dvec2(t) + 0.5) / 8.0); };
                QVERIFY(glm::dot(way(inside), way(folded)) > 0.85);
            }
    }

    /// In a glowing box whose walls reflect: emission / (1 - albedo), whatever the normal, in both orders.
    void light_is_that_of_closed_form() {
        Scene scene;
        scene.asset = finished(glowing_box(0.5, 1));
        const QTemporaryDir folder;
        scene.bakes = folder.path().toStdString();
        const ProbeGrid g = computed(scene, lambert(), {1, 4096, -1});
        std::mt19937 random(5);
        std::uniform_real_distribution<double> unit(-0.6, 0.6);
        std::normal_distribution<double> any;
        for (int i = 0; i < 200; ++i) {
            const glm::dvec3 at(unit(random), 0.5 + unit(random), -0.5 + unit(random)),
                n = glm::normalize(glm::dvec3(any(random), any(random), any(random)));
            for (const int order : {1, 2})
                for (const bool visibility : {true, false}) {
                    const ProbeAnswer answer = probe_answer(g, {order, visibility}, at, n);
                    QVERIFY(answer.share == 1);
                    QVERIFY2(std::abs(answer.light.y / 2 - 1) < 0.05, qPrintable(QString::number(answer.light.y)));
                }
        }
        QCOMPARE(probe_answer(g, {}, {40, 0, 0}, {0, 1, 0}).share, 0.0);
    }

    /// In the same box, of probes that stand anywhere: the light by closed form, and a share by the nearest one.
    void probes_placed_by_hand_shine_as_far_as_they_see() {
        SceneAsset a = glowing_box(0.5, 1);
        const glm::vec3 places[] = {{-1.1f, 0.2f, -1.5f}, {0.9f, 1.1f, 0.4f}, {1.2f, -0.3f, 1.3f}};
        for (int i = 0; i < 3; ++i)
            add_hidden(a, "light probe " + std::to_string(i + 1), places[i]);
        Scene scene;
        scene.asset = finished(std::move(a));
        const QTemporaryDir folder;
        scene.bakes = folder.path().toStdString();
        ProbeGridOptions o{0.8f, 4096, -1};
        o.at = "light probe*";
        const ProbeGrid g = computed(scene, lambert(), o);
        QCOMPARE(g.size(), std::size_t(3));
        std::mt19937 random(5);
        std::uniform_real_distribution<double> unit(-0.9, 0.9);
        std::normal_distribution<double> any;
        int within = 0, beyond = 0;
        for (int i = 0; i < 400; ++i) {
            const glm::dvec3 at(2 * unit(random), 0.5 + 1.5 * unit(random), -0.5 + 2.5 * unit(random)),
                n = glm::normalize(glm::dvec3(any(random), any(random), any(random)));
            double nearest = 1e9;
            for (std::size_t k = 0; k < 3; ++k) {
                QVERIFY(glm::distance(g.place(k), places[k]) < 1e-6f);
                nearest = std::min(nearest, glm::distance(at, glm::dvec3(places[k])));
            }
            const double wanted = std::clamp(2 * (1 - nearest / 1.6), 0.0, 1.0);
            const ProbeAnswer plain = probe_answer(g, {2, false}, at, n), seeing = probe_answer(g, {2, true}, at, n);
            QVERIFY(std::abs(plain.share - wanted) < 1e-6 && seeing.share <= wanted + 1e-6);
            within += wanted == 1;
            beyond += wanted == 0;
            if (wanted > 0) QVERIFY(std::abs(plain.light.y / 2 - 1) < 0.05);
            if (seeing.share > 0) QVERIFY(std::abs(seeing.light.y / 2 - 1) < 0.05);
        }
        QVERIFY(within > 30 && beyond > 30);

        // They are found again; one that was moved is not where it was computed; names and numbers are told.
        Setup s = lambert();
        for (const auto& [key, value] : {std::pair("grid.spacing", "0.8"), {"grid.at", "light probe*"}})
            QVERIFY(s.set_text(key, value).has_value());
        std::string remark;
        QVERIFY2(probe_grid_of(scene, s, &remark) && remark.empty(), remark.c_str());
        QCOMPARE(probe_grid_of(scene, s)->placed.size(), std::size_t(3));
        ObjectEdit moved{"light probe 2", "light probe 2"};
        moved.translation = {0, 0.5f, 0};
        moved.hidden = true;
        scene.placed = place_objects(*scene.asset, std::vector<ObjectEdit>{moved});
        QVERIFY(!probe_grid_of(scene, s, &remark) && remark.find("by hand") != std::string::npos);
        QVERIFY(s.set_text("grid.at", "").has_value());
        QVERIFY(!probe_grid_of(scene, s, &remark)); // a grid is none of them
        o.at = "lantern";
        const auto unnamed = ProbeGridBake::begin(scene, lambert(), o);
        QVERIFY(!unnamed && to_text(unnamed.error()).find("grid.at") != std::string::npos);
        SceneAsset crowd = *scene.asset;
        for (int i = 0; i < 300; ++i)
            add_hidden(crowd, "extra " + std::to_string(i), {0, 0, 0.001f * float(i)});
        scene.placed = nullptr;
        scene.asset = std::make_shared<const SceneAsset>(std::move(crowd));
        o.at = "extra ?*";
        const auto many = ProbeGridBake::begin(scene, lambert(), o);
        QVERIFY(!many && many.error().what.find("256") != std::string::npos);
    }

    /// Behind a wall that no probe stands behind: next to no share, and the ambient light stays.
    void probes_placed_by_hand_do_not_reach_through_walls() {
        Parted p;
        SceneAsset a = *p.rooms.scene.asset;
        add_hidden(a, "light probe 1", {3, 1.5f, 1.2f});
        add_hidden(a, "light probe 2", {2.8f, 1.2f, 3});
        p.rooms.scene.asset = std::make_shared<const SceneAsset>(std::move(a));
        ProbeGridOptions o{2, 256, -1};
        o.at = "light probe*";
        const ProbeGrid g = computed(p.rooms.scene, lambert(), o);
        double with = 0, without = 0, lit = 0;
        int places = 0;
        for (double y = 0.5; y < 2.6; y += 0.25)
            for (double z = 0.5; z < 3.6; z += 0.25) {
                with += probe_answer(g, {2, true}, {4.2, y, z}, {1, 0, 0}).share;
                without += probe_answer(g, {2, false}, {4.2, y, z}, {1, 0, 0}).share;
                lit += probe_answer(g, {2, true}, {3.2, y, z}, {0, 1, 0}).share;
                ++places;
            }
        qInfo("share on the dark side of the wall: %.5f seeing, %.3f not; on the bright side %.3f", with / places,
              without / places, lit / places);
        QVERIFY(without / places > 0.5 && with < without / 10 && lit / places > 0.8);
        // By hand or within a box, they are as stale as a grid once a lamp is another.
        p.rooms.scene.lights[0].intensity = 1;
        for (const auto& [key, value] : {std::pair("grid.at", "light probe*"), {"grid.within", "stool"}}) {
            Setup s = lambert();
            QVERIFY(s.set_text("indirect.kind", "probes").has_value() && s.set_text(key, value).has_value());
            std::string remark;
            QVERIFY(!probe_grid_of(p.rooms.scene, s, &remark) && remark.find("stale") != std::string::npos);
            QCOMPARE(stale_bakes(p.rooms.scene, s), std::vector<std::string>{"probes in space"});
        }
    }

    /// Probes' own distances are those of rays.
    void distances_are_those_of_rays() {
        Parted p;
        const ProbeGrid g = computed(p.rooms.scene, lambert(), {1, 16, 0});
        for (std::size_t i = 0; i < g.size(); i += 7) {
            if (g.walled[i]) continue;
            const glm::dvec3 at(g.place(i));
            if (at.x < 0.5 || at.x > 3.5 || at.z < 0.5 || at.z > 3.5 || at.y < 0.7 || at.y > 2.6) continue;
            for (const glm::dvec3 way : {glm::dvec3(0, 1, 0), {0, 0, -1}, {0, 0, 1}}) {
                const glm::dvec2 t = octahedral(way) * 8.0;
                const auto texel =
                    static_cast<std::size_t>(std::min(7.0, t.y)) * 8 + static_cast<std::size_t>(std::min(7.0, t.x));
                const double wanted = std::min(way.y > 0 ? 3 - at.y : way.z < 0 ? at.z : 4 - at.z, double(g.far()));
                QVERIFY2(std::abs(double(g.distances[i][texel].x) / wanted - 1) < 0.25,
                         qPrintable(QString("%1 for %2").arg(double(g.distances[i][texel].x)).arg(wanted)));
            }
        }
    }

    /// On the dark side of a wall: asking whether probes see leaves at most a tenth of what leaks without.
    void probes_that_see_leak_a_tenth() {
        Parted p;
        const ProbeGrid g = computed(p.rooms.scene, lambert(), {1, 256, -1});
        double with = 0, without = 0, lit = 0;
        int places = 0;
        for (double y = 0.3; y < 2.8; y += 0.25)
            for (double z = 0.3; z < 3.8; z += 0.25) {
                const glm::dvec3 dark(4.2, y, z), bright(4.0, y, z);
                with += luminance(probe_answer(g, {2, true}, dark, {1, 0, 0}).light);
                without += luminance(probe_answer(g, {2, false}, dark, {1, 0, 0}).light);
                lit += luminance(probe_answer(g, {2, true}, bright, {-1, 0, 0}).light);
                ++places;
            }
        qInfo("on the dark side of the wall, of the bright side's light: %.2f %% without seeing, %.4f %% with",
              100 * without / lit, 100 * with / lit);
        QVERIFY(without / lit > 0.05);
        QVERIFY2(with < without / 10, qPrintable(QString::number(with / without)));
        const ProbeComparison e = audit_probes(p.rooms.scene, lambert(), g, 2, 600, 64);
        qInfo("against paths: off %.1f %% (%.1f %%), leak %.3f %% (%.3f %%) at %zu dark places", 100 * e.with.off,
              100 * e.without.off, 100 * e.with.leak, 100 * e.without.leak, e.with.dark);
        QVERIFY(e.with.dark > 100 && e.with.leak < e.without.leak / 10);
        QVERIFY(e.with.off < e.without.off);
    }

    /// Twice as dense is nearer to the truth, and takes eight times the bytes or so.
    void denser_grids_are_nearer() {
        Parted p;
        const ProbeGrid wide = computed(p.rooms.scene, lambert(), {2, 256, -1}),
                        dense = computed(p.rooms.scene, lambert(), {0.5f, 256, -1});
        const double a = audit_probes(p.rooms.scene, lambert(), wide, 2, 600, 64).with.off,
                     b = audit_probes(p.rooms.scene, lambert(), dense, 2, 600, 64).with.off;
        QVERIFY2(b < a, qPrintable(QString("%1, %2").arg(a).arg(b)));
        QVERIFY(dense.bytes(2, true) > 20 * wide.bytes(2, true));
        QVERIFY(wide.bytes(1, true) < wide.bytes(2, true) && wide.bytes(1, false) < wide.bytes(1, true));
        // Both are known; the one that the settings name is taken, else the finest.
        QCOMPARE(known_grids(p.rooms.scene, lambert()).size(), std::size_t(2));
        Setup s = lambert();
        QVERIFY(s.set_text("grid.spacing", "2").has_value());
        QCOMPARE(probe_grid_of(p.rooms.scene, s)->options.spacing, 2.0f);
        QVERIFY(s.set_text("grid.spacing", "1").has_value());
        std::string remark;
        QCOMPARE(probe_grid_of(p.rooms.scene, s, &remark)->options.spacing, 0.5f);
        QVERIFY(remark.find("0.5 m apart") != std::string::npos);
        p.rooms.scene.lights[0].intensity = 1;
        QVERIFY(!probe_grid_of(p.rooms.scene, s, &remark) && remark.find("stale") != std::string::npos);
    }

    void a_stopped_bake_goes_on_and_damage_is_set_aside() {
        Parted p, whole;
        const ProbeGridOptions o{1, 32, 1};
        int runs = 0;
        std::filesystem::path file;
        for (bool over = false; !over; ++runs) {
            auto bake = ProbeGridBake::begin(p.rooms.scene, lambert(), o);
            QVERIFY(bake.has_value());
            over = (*bake)->work(1);
            QVERIFY((*bake)->keep().has_value());
            file = (*bake)->file();
        }
        QVERIFY(runs > 2);
        const ProbeGrid a = *read_probe_grid(file), b = computed(whole.rooms.scene, lambert(), o);
        QVERIFY(a.light == b.light && a.walled == b.walled && a.distances == b.distances);
        const auto bytes = *read_file(file);
        for (const std::size_t cut : {bytes.size() / 3, bytes.size() - 1}) {
            QVERIFY(write_file_atomically(file, bytes.data(), cut).has_value());
            QVERIFY(!read_probe_grid(file).has_value());
            auto bake = ProbeGridBake::begin(p.rooms.scene, lambert(), o);
            QVERIFY(bake.has_value() && (*bake)->remark().find("set aside") != std::string::npos);
            QVERIFY(std::filesystem::exists(file.string() + ".damaged"));
            QCOMPARE((*bake)->progress().done, std::size_t(0));
        }
        const auto many = ProbeGridBake::begin(p.rooms.scene, lambert(), {0.02f, 16, 0});
        QVERIFY(!many.has_value() && many.error().where == "grid.spacing");
        Scene nowhere = p.rooms.scene;
        nowhere.bakes.clear();
        QVERIFY(!ProbeGridBake::begin(nowhere, lambert(), o).has_value());
        Scene blocked = p.rooms.scene;
        blocked.bakes = file.string() + ".damaged/beneath a file";
        const auto no = ProbeGridBake::begin(blocked, lambert(), o);
        QVERIFY(!no.has_value() && no.error().where == blocked.bakes);
    }
};

MIROLUX_TEST(probe_grid_test)
#include "probe_grid_test.moc"
