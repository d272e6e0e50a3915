#include "core/bake/patch_bake.h"
#include "core/bake/probe_grid.h"
#include "core/io/file.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <csignal>
#include <filesystem>
#include <map>
#include <sys/resource.h>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_bakes {

using Made = Result<std::unique_ptr<Bake>>;
template <class Begun>
Made made(Begun bake) {
    if (!bake) return tl::unexpected(bake.error());
    return std::move(*bake);
}

struct Kind {
    const char* name;
    std::function<Made(const Scene&)> begins;
};
std::vector<Kind> kinds() {
    return {{"light map",
             [](const Scene& s) {
                 return made(LightMapBake::begin(s, lambert(), {4, 8, 1}));
             }},
            {"masks",
             [](const Scene& s) {
                 return made(MaskBake::begin(s, lambert(), {6, 16}));
             }},
            {"occlusion",
             [](const Scene& s) {
                 return made(OcclusionBake::begin(s, lambert(), {6, 32, 2, false}));
             }},
            {"vertex occlusion",
             [](const Scene& s) {
                 return made(OcclusionBake::begin(s, lambert(), {1, 4096, 2, true}));
             }},
            {"probes",
             [](const Scene& s) {
                 return made(ProbeGridBake::begin(s, lambert(), {1, 64, 1}));
             }},
            {"patches", [](const Scene& s) {
                 return made(PatchBake::begin(s, lambert(), {2, 64, -1, true}, 0.05));
             }}};
}

std::map<std::string, std::vector<std::uint8_t>> files_in(const QTemporaryDir& folder) {
    std::map<std::string, std::vector<std::uint8_t>> out;
    for (const auto& e : std::filesystem::directory_iterator(folder.path().toStdString()))
        out[e.path().filename().string()] = *read_file(e.path());
    return out;
}

/// Files may not grow beyond a few bytes: as on a full disk, a write ends short.
class FullDisk {
public:
    FullDisk() : was_(std::signal(SIGXFSZ, SIG_IGN)) {
        getrlimit(RLIMIT_FSIZE, &before_);
        rlimit full = before_;
        full.rlim_cur = 64;
        setrlimit(RLIMIT_FSIZE, &full);
    }
    ~FullDisk() {
        setrlimit(RLIMIT_FSIZE, &before_);
        std::signal(SIGXFSZ, was_);
    }

private:
    rlimit before_{};
    void (*was_)(int);
};

} // namespace mirolux::test_bakes
using namespace mirolux::test_bakes;

/// What all bakes promise.
class bakes_test : public QObject {
    Q_OBJECT
private slots:
    /// A disk that takes no more: an error with place and remedy; what lay there stays, what was computed too.
    void a_full_disk_loses_nothing() {
        for (const Kind& kind : kinds()) {
            TwoRooms t;
            const QTemporaryDir folder;
            t.scene.bakes = folder.path().toStdString();
            t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
            auto begun = kind.begins(t.scene);
            QVERIFY2(begun.has_value(), begun ? "" : to_text(begun.error()).c_str());
            Bake& bake = **begun;
            (void)bake.work(0.5);
            QVERIFY(bake.keep().has_value());
            const auto before = files_in(folder);
            QVERIFY(!before.empty());
            (void)bake.work(20);
            {
                const FullDisk full;
                const auto kept = bake.keep();
                QVERIFY2(!kept.has_value(), kind.name);
                QVERIFY2(kept.error().where.find(folder.path().toStdString()) == 0 && !kept.error().remedy.empty(),
                         to_text(kept.error()).c_str());
            }
            QVERIFY2(files_in(folder) == before, kind.name);
            const std::size_t done = bake.progress().done;
            QVERIFY2(bake.keep().has_value(), kind.name); // there is room again
            auto again = kind.begins(t.scene);
            QVERIFY(again.has_value());
            QVERIFY2((*again)->remark().empty(), (*again)->remark().c_str());
            QCOMPARE((*again)->progress().done, done);
        }
    }

    /// Stopped from another thread it rests soon, and what it says of its progress only grows.
    void a_bake_can_be_stopped() {
        for (const Kind& kind : kinds()) {
            TwoRooms t;
            const QTemporaryDir folder;
            t.scene.bakes = folder.path().toStdString();
            t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
            auto begun = kind.begins(t.scene);
            QVERIFY(begun.has_value());
            std::atomic<bool> stop{true};
            QVERIFY2(!(*begun)->work(1e9, &stop), kind.name); // at once
            QCOMPARE((*begun)->progress().done, std::size_t(0));
            std::size_t done = 0;
            for (int i = 0; i < 5; ++i) {
                (void)(*begun)->work(5);
                const BakeProgress p = (*begun)->progress();
                QVERIFY2(p.all == 1000 || p.done >= done, kind.name);
                QVERIFY(p.done <= p.all && p.left >= 0);
                done = p.done;
            }
        }
    }

    /// Without its pictures surfaces have other colours: nothing is baked so.
    void a_scene_without_its_pictures_is_refused() {
        for (const Kind& kind : kinds()) {
            TwoRooms t;
            const QTemporaryDir folder;
            t.scene.bakes = folder.path().toStdString();
            t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
            auto asset = std::make_shared<SceneAsset>(*t.scene.asset);
            asset->textures.emplace_back();
            asset->picturesRead = false;
            t.scene.asset = asset;
            const auto no = kind.begins(t.scene);
            QVERIFY2(!no.has_value() && no.error().what.find("pictures were not read") != std::string::npos, kind.name);
        }
    }

    /// Probes fill a box that is named, hidden or not, and nothing else.
    void a_grid_fills_what_is_named() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        Setup setup = lambert();
        QVERIFY(setup.set_text("indirect.kind", "probes").has_value());
        QVERIFY(setup.set_text("grid.spacing", "0.25").has_value());
        QVERIFY(setup.set_text("grid.paths", "16").has_value());
        QVERIFY(setup.set_text("grid.within", "table, chest").has_value());
        {
            auto bake = ProbeGridBake::begin(t.scene, setup, probe_grid_options(setup));
            QVERIFY2(bake.has_value(), bake ? "" : to_text(bake.error()).c_str());
            const ProbeGrid& g = (*bake)->grid();
            Box box;
            box.add(t.solids[std::size_t(t.ahead)]);
            box.add(t.solids[std::size_t(t.aside)]);
            const glm::vec3 high = g.low + 0.25f * glm::vec3(g.count - 1);
            for (int k = 0; k < 3; ++k)
                QVERIFY(g.low[k] <= box.low[k] && g.low[k] > box.low[k] - 0.26f && high[k] >= box.high[k] &&
                        high[k] < box.high[k] + 0.26f);
            while (!(*bake)->work(1000))
                ;
            QVERIFY((*bake)->keep().has_value());
        }
        std::string remark;
        const auto used = probe_grid_of(t.scene, setup, &remark);
        QVERIFY2(used, remark.c_str());
        // One of another box is not taken for it.
        QVERIFY(setup.set_text("grid.within", "stool").has_value());
        QVERIFY(!probe_grid_of(t.scene, setup, &remark));
        QVERIFY2(QString::fromStdString(remark).contains("stool"), remark.c_str());
        QVERIFY(setup.set_text("grid.within", "teapot").has_value());
        const auto none = ProbeGridBake::begin(t.scene, setup, probe_grid_options(setup));
        QVERIFY(!none.has_value() && none.error().what.find("teapot") != std::string::npos);
    }
};

MIROLUX_TEST(bakes_test)
#include "bakes_test.moc"
