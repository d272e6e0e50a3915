#include "core/bake/patch_bake.h"
#include "core/bake/power_tree.h"
#include "core/io/file.h"
#include "core/light/luminance.h"
#include "core/scene/project.h"
#include "core/visibility/baked_file.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>
#include <map>
#include <numeric>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_patch_bake {

std::unique_ptr<PatchBake> patches_of(const Scene& scene, const LightMapOptions& options, double rest) {
    auto bake = PatchBake::begin(scene, lambert(), options, rest);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    return std::move(*bake);
}
void finish(Bake& bake) {
    while (!bake.work(1000))
        ;
}

Scene furnace(double albedo, double emission) {
    Scene scene;
    scene.asset = finished(glowing_box(albedo, emission));
    return scene;
}

} // namespace mirolux::test_patch_bake
using namespace mirolux::test_patch_bake;

/// Patches that shoot their light.
class patch_bake_test : public QObject {
    Q_OBJECT
private slots:
    /// Two squares that face each other a side apart: 0.19982 of what one sends out meets the other (J. Howell, A
    /// Catalog of Radiation Heat Transfer Configuration Factors, C-11).
    void rays_tell_form_factors() {
        const QTemporaryDir folder;
        SceneAsset a;
        a.materials.push_back(diffuse(0.5, 0, false));
        add_solid(a, "below", {{0, -0.1f, 0}, {1, 0, 1}});
        add_solid(a, "above", {{0, 1, 0}, {1, 1.1f, 1}});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {lamp({0.5f, 0.5f, 0.5f}, 100)};
        scene.bakes = folder.path().toStdString();
        const auto bake = patches_of(scene, {4, 4096, -1, true}, 1e-4);
        while (!bake->Bake::work(1000))
            ;
        std::map<std::size_t, double> shares; // of each patch below: the last shot's
        const std::vector<Patch>& patches = bake->patches();
        for (int i = 0; i < 400; ++i) {
            const PatchShot& shot = bake->shoot();
            if (shot.patch == no_patch) break;
            const SurfacePoint& from = patches[shot.patch].point.point;
            if (from.side.y < 0.9f || from.position.y > 0.5f) continue;
            double share = 0;
            for (const PatchShot::Lit& lit : shot.lit)
                if (patches[lit.patch].point.point.side.y < -0.9f && patches[lit.patch].point.point.position.y > 0.5f)
                    share += double(lit.share);
            shares[shot.patch] = share;
        }
        double sum = 0, area = 0;
        for (const auto& [patch, share] : shares) {
            sum += share * double(patches[patch].area);
            area += double(patches[patch].area);
        }
        qInfo("%zu patches of %.4f square metres, form factor %.4f", shares.size(), area, sum / area);
        QVERIFY(shares.size() >= 16);
        QVERIFY(std::abs(area - 1) < 0.01);
        QVERIFY(std::abs(sum / area - 0.19982) < 0.004);
    }

    /// In a closed box light falls and is sent on until none is left: in all, what the lamp gave over 1 - albedo; and
    /// walls that glow evenly have pi / (1 - albedo) times their light everywhere.
    void no_light_is_lost_in_a_closed_box() {
        const QTemporaryDir folder;
        Scene scene = furnace(0.6, 0);
        scene.lights = {lamp({0.3f, 0.4f, -0.6f}, 50)};
        scene.bakes = folder.path().toStdString();
        const auto bake = patches_of(scene, {2, 512, -1, true}, 1e-3);
        finish(*bake);
        const LightMap map = bake->map();
        double straight = 0, all = 0, area = 0;
        for (const Patch& p : bake->patches()) {
            const auto at = [&](const FloatImage& image) { return double(image.data[4 * p.point.texel + 1]); };
            straight += double(p.area) * at(map.layers[0].direct);
            all += double(p.area) * (at(map.layers[0].direct) + at(map.layers[0].indirect));
            area += double(p.area);
        }
        qInfo("straight %.1f lm of %.1f, all %.1f; %zu shots", straight, 50 * 4 * M_PI, all, bake->last().number);
        QVERIFY(std::abs(area - 2 * (4 * 3 + 4 * 5 + 3 * 5)) < 1);
        QVERIFY(std::abs(straight / (50 * 4 * M_PI) - 1) < 0.02);
        QVERIFY(std::abs(all / straight * 0.4 - 1) < 0.01);

        const QTemporaryDir other;
        Scene glows = furnace(0.5, 1);
        glows.bakes = other.path().toStdString();
        const auto even = patches_of(glows, {1, 512, -1, true}, 1e-3);
        finish(*even);
        const LightMap lit = even->map();
        double sum = 0, off = 0;
        for (const Patch& p : even->patches()) {
            const double v = double(lit.layers[0].indirect.data[4 * p.point.texel + 1]);
            sum += double(p.area) * v / 94;
            off += double(p.area) * std::abs(v / (2 * M_PI) - 1) / 94;
        }
        qInfo("glowing walls: %.4f of the closed form, %.1f %% off by patch", sum / (2 * M_PI), 100 * off);
        QVERIFY(std::abs(sum / (2 * M_PI) - 1) < 0.02);
        QVERIFY(off < 0.08);
    }

    /// The patch with the most light left is the one that shoots; what it sends is what the map says falls on it.
    void the_brightest_shoots_first() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const auto bake = patches_of(t.scene, {2, 64, -1, true}, 0.01);
        QCOMPARE(bake->shoot().patch, no_patch); // straight light first
        while (!bake->Bake::work(1000))
            ;
        std::vector<glm::dvec3> unshot;
        const LightMap map = bake->map();
        for (const Patch& p : bake->patches()) {
            const float *e = &map.layers[0].direct.data[4 * p.point.texel],
                        *g = &map.layers[0].indirect.data[4 * p.point.texel];
            const bool seen = e[3] == 1.0f;
            unshot.push_back(seen ? glm::dvec3(p.albedo) * glm::dvec3(e[0] + g[0], e[1] + g[1], e[2] + g[2])
                                  : glm::dvec3(0.0));
        }
        double before = 1;
        for (int i = 0; i < 300; ++i) {
            const std::vector<Patch>& patches = bake->patches();
            double most = 0;
            for (std::size_t k = 0; k < patches.size(); ++k)
                most = std::max(most, luminance(unshot[k]) * double(patches[k].area));
            const PatchShot shot = bake->shoot();
            QVERIFY(shot.patch != no_patch);
            const double power = luminance(glm::dvec3(shot.power));
            QVERIFY2(std::abs(power / most - 1) < 1e-3,
                     qPrintable(QString("%1: %2 of %3").arg(i).arg(power).arg(most)));
            unshot[shot.patch] = glm::dvec3(0.0);
            double shares = 0;
            for (const PatchShot::Lit& lit : shot.lit) {
                const Patch& p = patches[lit.patch];
                shares += double(lit.share);
                if (map.layers[0].direct.data[4 * p.point.texel + 3] == 1.0f)
                    unshot[lit.patch] += glm::dvec3(p.albedo) * glm::dvec3(shot.power) * double(lit.share / p.area);
            }
            QVERIFY(shares <= 1.0001);
            QVERIFY(shot.unshot < before);
            before = shot.unshot;
        }
    }

    /// The same light as paths follow, of matt surfaces.
    void it_is_the_light_that_paths_find() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        Light mixed = lamp({6, 2.4f, 1.2f}, 80);
        mixed.id = 2;
        mixed.mobility = Mobility::mixed;
        mixed.indirectShare = 0.5f;
        t.scene.lights = {lamp({2, 2.5f, 2}, 200), mixed};
        const auto bake = patches_of(t.scene, {4, 512, -1, true}, 2e-3);
        finish(*bake);
        const LightMap patches = bake->map(), paths = bake_map(t.scene, lambert(), {4, 256, -1});
        double off = 0, all = 0, sum = 0, straight = 0;
        for (const Patch& p : bake->patches()) {
            if (paths.layers[0].direct.data[4 * p.point.texel + 3] != 1.0f || !(p.area > 0)) continue;
            const double a = double(patches.layers[0].indirect.data[4 * p.point.texel + 1]),
                         b = double(paths.layers[0].indirect.data[4 * p.point.texel + 1]);
            off += double(p.area) * std::abs(a - b);
            sum += double(p.area) * a;
            all += double(p.area) * b;
            straight += double(p.area) * std::abs(double(patches.layers[0].direct.data[4 * p.point.texel + 1]) -
                                                  double(paths.layers[0].direct.data[4 * p.point.texel + 1]));
        }
        qInfo("%zu patches, %zu shots: bounced light %.2f %% of paths' in all, off by %.1f %% by patch",
              bake->patches().size(), bake->last().number, 100 * sum / all, 100 * off / all);
        QVERIFY(std::abs(sum / all - 1) < 0.03);
        QVERIFY(off / all < 0.12);
        QVERIFY(straight / all < 0.03); // by other points of the texels
    }

    /// Killed and gone on with, it comes to the same bits; frames may use what there is; a damaged file is set aside.
    void it_goes_on_where_it_was() {
        TwoRooms t;
        const QTemporaryDir folder, other;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const LightMapOptions options{2, 64, -1, true};
        Scene elsewhere = t.scene;
        elsewhere.bakes = other.path().toStdString();
        const auto whole = patches_of(elsewhere, options, 0.05);
        finish(*whole);
        Setup setup = mapped_setup(options);
        for (const auto& [key, value] : {std::pair("lightmap.source", "patches"), {"patches.rays", "64"}})
            QVERIFY(setup.set_text(key, value).has_value());
        QCOMPARE(light_map_options(setup).patches, true);
        int runs = 0;
        std::string remark;
        for (bool over = false; !over; ++runs) {
            const auto bake = patches_of(t.scene, options, 0.05);
            QVERIFY2(bake->remark().empty(), bake->remark().c_str());
            over = bake->work(2);
            QVERIFY(bake->keep().has_value());
            const auto read = baked_light_of(t.scene, setup, &remark);
            if (bake->last().number > 0) {
                QVERIFY2(read, remark.c_str());
                QVERIFY2(QString::fromStdString(remark).contains("not shot on yet"), remark.c_str());
            }
        }
        QVERIFY2(runs > 3, qPrintable(QString::number(runs)));
        const auto again = patches_of(t.scene, options, 0.05);
        QCOMPARE(again->last().number, whole->last().number);
        QVERIFY(again->map().layers[0].indirect.data == whole->map().layers[0].indirect.data);
        QVERIFY(again->map().layers[0].toward[0].data == whole->map().layers[0].toward[0].data);

        const auto file = patches_file(t.scene.bakes, again->digest());
        const auto bytes = *read_file(file);
        QVERIFY(write_file_atomically(file, bytes.data(), bytes.size() / 2).has_value());
        const auto fresh = patches_of(t.scene, options, 0.05);
        QVERIFY(fresh->remark().find("set aside") != std::string::npos);
        QVERIFY(std::filesystem::exists(file.string() + ".damaged"));
        QCOMPARE(fresh->progress().done, std::size_t(0));

        // One that is whole but for its end was read in part: nothing of that stays.
        QVERIFY(write_file_atomically(file, bytes.data(), bytes.size()).has_value());
        auto state = read_document(file, "mirolux.patches", 1, "patches");
        QVERIFY(state.has_value());
        std::vector<std::uint8_t> zeros((*state)["areas"].get_binary().size(), 0);
        (*state)["areas"] = nlohmann::json::binary(std::move(zeros));
        (*state)["shotsOf"] = nlohmann::json::binary({1, 2, 3});
        QVERIFY(write_document(*state, file).has_value());
        const auto anew = patches_of(t.scene, options, 0.05);
        QVERIFY(anew->remark().find("set aside") != std::string::npos);
        finish(*anew);
        QVERIFY(anew->map().layers[0].indirect.data == whole->map().layers[0].indirect.data);
    }

    /// The largest of numbers that change one by one, and their sum, as found by looking through all of them.
    void the_largest_is_found() {
        std::mt19937 random(9);
        std::uniform_real_distribution<double> unit(0, 1);
        for (const std::size_t count : {std::size_t(1), std::size_t(2), std::size_t(37), std::size_t(256)}) {
            PowerTree tree(count), filled(count);
            std::vector<double> plain(count, 0.0);
            QCOMPARE(tree.largest(), count);
            for (int i = 0; i < 2000; ++i) {
                const std::size_t at = random() % count;
                plain[at] = random() % 4 == 0 ? 0 : std::floor(8 * unit(random)); // often alike
                tree.set(at, plain[at]);
                const auto most = std::max_element(plain.begin(), plain.end());
                QCOMPARE(tree.largest(), *most > 0 ? static_cast<std::size_t>(most - plain.begin()) : count);
                QCOMPARE(tree.sum(), std::accumulate(plain.begin(), plain.end(), 0.0)); // whole numbers: exact
            }
            for (double& p : plain)
                p = unit(random);
            for (std::size_t i = count; i-- > 0;)
                tree.set(i, plain[i]);
            filled.fill([&](std::size_t i) { return plain[i]; });
            QVERIFY(tree.sum() == filled.sum()); // to the bit, in whatever order
            QCOMPARE(filled.largest(), tree.largest());
        }
    }
};

MIROLUX_TEST(patch_bake_test)
#include "patch_bake_test.moc"
