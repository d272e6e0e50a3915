#include "core/bake/baked_shading.h"
#include "core/bake/map_finish.h"
#include "core/plan/draw_list.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_baked_light {

Light lamp_of(int id, glm::vec3 at, float candela, Mobility mobility) {
    Light l = lamp(at, candela);
    l.id = id;
    l.name = "lamp " + std::to_string(id);
    l.mobility = mobility;
    return l;
}

/// What falls from a lamp on the ground beneath, straight.
double from_lamp(const Light& l, const glm::vec3& at) {
    const glm::dvec3 to = glm::dvec3(l.position) - glm::dvec3(at);
    const double d = glm::length(to);
    return double(l.intensity) * to.y / (d * d * d);
}

/// Ground and lamps of all kinds, its bakes in a folder.
struct Ground {
    QTemporaryDir folder;
    Scene scene;
    explicit Ground(std::vector<Light> lights) {
        scene.asset = white_plane();
        scene.lights = std::move(lights);
        scene.bakes = folder.path().toStdString();
    }
};

/// Each texel that a surface lies on, with its place in the world.
template <class Each>
void each_point(const Scene& scene, const LightMap& map, const Each& each) {
    for (const MapPoint& p : map_points(scene, map.layout))
        each(p.point.position, static_cast<int>(p.texel % std::size_t(map.layout.width)),
             static_cast<int>(p.texel / std::size_t(map.layout.width)));
}

double noise_against(const FloatImage& a, const FloatImage& truth) {
    double sum = 0, all = 0;
    for (std::size_t i = 0; i < a.data.size(); i += 4)
        if (truth.data[i + 3] == 1.0f) {
            sum += std::pow(double(a.data[i + 1]) - double(truth.data[i + 1]), 2);
            all += std::pow(double(truth.data[i + 1]), 2);
        }
    return std::sqrt(sum / all);
}

} // namespace mirolux::test_baked_light
using namespace mirolux::test_baked_light;

/// Light maps: what of each light is in them, how they are finished and stored, and when they hold.
class baked_light_test : public QObject {
    Q_OBJECT
private slots:
    /// Each store gives back what its format promises, from black to far beyond a lamp's light.
    void stores_lose_what_they_are_said_to() {
        std::mt19937 random(5);
        std::uniform_real_distribution<float> exponent(-6, 12), share(0.1f, 1);
        FloatImage light{61, 37, 4, {}};
        for (int i = 0; i < 61 * 37; ++i) {
            const float most = std::exp2(exponent(random));
            for (int c = 0; c < 3; ++c)
                light.data.push_back(i % 17 == 0 ? 0.0f : most * share(random));
            light.data.push_back(1);
        }
        for (const TexelStore store : {TexelStore::half, TexelStore::exponent, TexelStore::rgbm}) {
            const StoredTexels s = stored(light, store);
            QCOMPARE(s.bytes.size(), std::size_t(61 * 37 * (store == TexelStore::half ? 6 : 4)));
            const FloatImage back = restored(s);
            for (int y = 0; y < 37; ++y)
                for (int x = 0; x < 61; ++x) {
                    const float *a = light.pixel(x, y), *b = back.pixel(x, y);
                    const float largest = std::max({a[0], a[1], a[2]});
                    for (int c = 0; c < 3; ++c) {
                        // rgbm: a step of the factor's root, and one of the channel's.
                        const double least = s.scale / (255.0 * 255.0),
                                     most = store == TexelStore::half ? double(a[c]) / 2048 + 1e-7
                                            : store == TexelStore::exponent
                                                ? double(largest) / 512 + 1e-6
                                                : 2 * std::sqrt(double(a[c])) * std::sqrt(double(largest)) / 255 +
                                                      double(largest) / (255.0 * 255.0) + least * 2;
                        QVERIFY2(std::abs(double(a[c]) - double(b[c])) <= most,
                                 qPrintable(
                                     QString("%1: %2 gives %3").arg(word(store)).arg(double(a[c])).arg(double(b[c]))));
                    }
                }
        }
    }

    /// BC6H: blocks of one colour to half a step of its code, smooth light to a fraction of a percent.
    void bc6h_keeps_smooth_light() {
        FloatImage light{64, 64, 3, {}};
        for (int y = 0; y < 64; ++y)
            for (int x = 0; x < 64; ++x) {
                const double d2 = std::pow((x - 20) / 16.0, 2) + std::pow((y - 30) / 16.0, 2) + 1;
                for (const double k : {1.0, 0.7, 0.4})
                    light.data.push_back(static_cast<float>(800 * k / d2));
            }
        const StoredTexels s = stored(light, TexelStore::bc6h);
        QCOMPARE(s.bytes.size(), std::size_t(64 * 64));
        const FloatImage back = restored(s);
        double sum = 0, worst = 0;
        for (std::size_t i = 0; i < light.data.size(); ++i) {
            const double e = std::abs(double(back.data[i]) / double(light.data[i]) - 1);
            sum += e;
            worst = std::max(worst, e);
        }
        qInfo("smooth light in BC6H: mean error %.3f %%, worst %.2f %%", 100 * sum / double(light.data.size()),
              100 * worst);
        QVERIFY(sum / double(light.data.size()) < 0.006); // a step of its 10 bits is 3 %
        QVERIFY(worst < 0.05);
        for (const float v : {0.0f, 0.001f, 1.0f, 77.0f, 60000.0f}) {
            FloatImage even{4, 4, 3, std::vector<float>(48, v)};
            for (const float b : restored(stored(even, TexelStore::bc6h)).data)
                QVERIFY2(std::abs(b - v) <= v * 0.033f + 1e-5f,
                         qPrintable(QString("%1 gives %2").arg(double(v)).arg(double(b))));
        }
    }

    /// Still ones straight and bounced, switched ones in layers of their own as white light, mixed ones bounced only,
    /// moving ones not at all.
    void each_light_is_where_its_mobility_says() {
        Ground g({lamp_of(1, {-4, 2, 0}, 100, Mobility::still), lamp_of(2, {4, 2, 0}, 200, Mobility::switched),
                  lamp_of(3, {0, 2, 4}, 300, Mobility::mixed), lamp_of(4, {0, 2, -4}, 400, Mobility::moving)});
        g.scene.lights[1].color = {1, 0.5f, 0.25f};
        g.scene.lights[1].enabled = false;
        const LightMap map = bake_map(g.scene, lambert(), {8, 1, 0}); // small texels: light is a mean over them
        QCOMPARE(map.layers.size(), std::size_t(2));
        QCOMPARE(map.layers[1].light, 2);
        QCOMPARE(map.layers[1].intensity, 200.0f);
        double worst = 0;
        each_point(g.scene, map, [&](const glm::vec3& at, int x, int y) {
            for (int c = 0; c < 3; ++c) {
                worst = std::max(
                    worst,
                    std::abs(double(map.layers[0].direct.pixel(x, y)[c]) / from_lamp(g.scene.lights[0], at) - 1));
                worst = std::max(
                    worst,
                    std::abs(double(map.layers[1].direct.pixel(x, y)[c]) / from_lamp(g.scene.lights[1], at) - 1));
            }
        });
        QVERIFY2(worst < 0.002, qPrintable(QString::number(worst)));
        // How a switched lamp shines is no part of what the map depends on; how a still one does, is.
        const std::string digest = light_map_scene_digest(g.scene, lambert());
        g.scene.lights[1].intensity = 50;
        g.scene.lights[1].enabled = true;
        g.scene.lights[3].position.x += 1;
        QCOMPARE(light_map_scene_digest(g.scene, lambert()), digest);
        g.scene.lights[1].position.y += 0.1f;
        QVERIFY(light_map_scene_digest(g.scene, lambert()) != digest);
        g.scene.lights[1].position.y -= 0.1f;
        g.scene.lights[0].mobility = Mobility::mixed;
        QVERIFY(light_map_scene_digest(g.scene, lambert()) != digest);
    }

    /// A motion makes a lamp moving; one that only changes how it shines leaves a switched one switched.
    void motions_decide_over_marks() {
        Ground g({lamp_of(1, {0, 2, 0}, 100, Mobility::still), lamp_of(2, {1, 2, 0}, 100, Mobility::switched),
                  lamp_of(3, {2, 2, 0}, 100, Mobility::switched), lamp_of(4, {3, 2, 0}, 100, Mobility::mixed)});
        Motion blink, sweep;
        blink.kind = MotionKind::blink;
        sweep.kind = MotionKind::sweep;
        for (const int id : {1, 2}) {
            blink.light = id;
            g.scene.motions.push_back(blink);
        }
        sweep.light = 3;
        g.scene.motions.push_back(sweep);
        const std::vector<Mobility> found = *mobilities_of(g.scene);
        const std::vector<Mobility> wanted = {Mobility::moving, Mobility::switched, Mobility::moving, Mobility::mixed};
        QVERIFY(found == wanted);
    }

    /// From one lamp: the direction to it. From a grey sky: two thirds of the normal.
    void directions_are_those_of_closed_form() {
        Ground g({lamp_of(1, {1, 2, 0}, 300, Mobility::still)});
        const LightMap map = bake_map(g.scene, lambert(), {8, 1, 0});
        double worst = 0;
        each_point(g.scene, map, [&](const glm::vec3& at, int x, int y) {
            const glm::dvec3 to = glm::normalize(glm::dvec3(g.scene.lights[0].position) - glm::dvec3(at));
            const float* t = map.layers[0].toward[0].pixel(x, y);
            const double light = double(map.layers[0].direct.pixel(x, y)[0] + map.layers[0].indirect.pixel(x, y)[0]);
            worst = std::max(worst, glm::distance(glm::dvec3(t[0], t[1], t[2]) / light, to));
        });
        QVERIFY2(worst < 1e-3, qPrintable(QString::number(worst)));
        Ground under({});
        Setup grey = lambert();
        QVERIFY(grey.set_text("ambient.kind", "constant").has_value());
        QVERIFY(grey.set_text("ambient.constant", "2,2,2").has_value());
        const LightMap sky = bake_map(under.scene, grey, {0.5f, 512, 0});
        glm::dvec3 mean(0.0);
        double light = 0;
        each_point(under.scene, sky, [&](const glm::vec3&, int x, int y) {
            const float* t = sky.layers[0].toward[1].pixel(x, y);
            mean += glm::dvec3(t[0], t[1], t[2]);
            light += double(sky.layers[0].indirect.pixel(x, y)[1]);
        });
        QVERIFY2(glm::distance(mean / light, glm::dvec3(0, 2.0 / 3, 0)) < 0.005,
                 qPrintable(QString::number(mean.y / light)));
    }

    /// A light's share scales what bounces of it, and nothing else.
    void a_share_scales_bounced_light() {
        const auto baked_with = [](float share) {
            TwoRooms t;
            const QTemporaryDir folder;
            t.scene.bakes = folder.path().toStdString();
            t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
            t.scene.lights[0].indirectShare = share;
            return bake_map(t.scene, lambert(), {1, 16, 2});
        };
        const LightMap one = baked_with(1), two = baked_with(2.5f);
        QVERIFY(one.layers[0].direct.data == two.layers[0].direct.data);
        double a = 0, b = 0;
        for (std::size_t i = 0; i < one.layers[0].indirect.data.size(); i += 4) {
            a += double(one.layers[0].indirect.data[i]);
            b += double(two.layers[0].indirect.data[i]);
        }
        QVERIFY2(a > 0 && std::abs(b / a - 2.5) < 1e-3, qPrintable(QString::number(b / a)));
    }

    /// What is marked as moving neither stands in the way of baked light nor has a place in the map.
    void what_moves_takes_no_part() {
        TwoRooms t, bare;
        const QTemporaryDir folder, other;
        t.scene.lights = bare.scene.lights = {lamp({1.2f, 2.5f, 3.2f}, 200)};
        const auto without = [](Scene& scene, int object, bool moving) {
            ObjectEdit e = edit_of({}, *scene.asset, object);
            if (moving) e.standing = Standing::moving;
            e.hidden = !moving;
            scene.placed = place_objects(*scene.asset, EditList{e});
        };
        without(t.scene, t.inFirst, true);
        without(bare.scene, bare.inFirst, false);
        t.scene.bakes = folder.path().toStdString();
        bare.scene.bakes = other.path().toStdString();
        const LightMap a = bake_map(t.scene, lambert(), {4, 8, 1}), b = bake_map(bare.scene, lambert(), {4, 8, 1});
        for (const LightMapLayout::Place& p : a.layout.places)
            QVERIFY(p.object != t.inFirst);
        QVERIFY(a.layers[0].direct.data == b.layers[0].direct.data);
        QVERIFY(a.layers[0].indirect.data == b.layers[0].indirect.data);
    }

    /// A round thing's charts meet without a step.
    void stitched_seams_do_not_show() {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
        add_tube(a, 0);
        Scene scene;
        scene.asset = finished(std::move(a));
        const QTemporaryDir folder;
        scene.bakes = folder.path().toStdString();
        scene.lights = {lamp({4, 3, 1}, 500), lamp({-3, 1, 3}, 300)};
        scene.lights[1].id = 2;
        LightMap map = bake_map(scene, lambert(), {6, 16, 1});
        const SeamStep before = seam_step(map.layers[0].direct, map.layout);
        QVERIFY(before.places > 20);
        FloatImage light = map.layers[0].direct;
        stitch(light, map.layout);
        const SeamStep after = seam_step(light, map.layout);
        qInfo("mean step over %zu places of seams: %.2f %% before, %.3f %% after", before.places, 100 * before.mean,
              100 * after.mean);
        QVERIFY(after.mean < 0.01 && after.mean < before.mean);
        // Little else is changed.
        double moved = 0, all = 0;
        for (std::size_t i = 0; i < light.data.size(); i += 4) {
            moved += std::abs(double(light.data[i]) - double(map.layers[0].direct.data[i]));
            all += double(light.data[i]);
        }
        QVERIFY2(moved / all < 0.02, qPrintable(QString::number(moved / all)));
    }

    /// Smoothing takes most of the noise out and keeps straight light as it is.
    void smoothing_brings_bounced_light_nearer_to_truth() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const LightMap truth = bake_map(t.scene, lambert(), {3, 1024, 2});
        LightMap few = bake_map(t.scene, lambert(), {3, 16, 2});
        const FloatImage straight = few.layers[0].direct;
        const double before = noise_against(few.layers[0].indirect, truth.layers[0].indirect);
        denoise(few.layers[0], few.layout, map_points(t.scene, few.layout));
        const double after = noise_against(few.layers[0].indirect, truth.layers[0].indirect);
        qInfo("bounced light of 16 paths against 1024: %.2f %% off, smoothed %.2f %%", 100 * before, 100 * after);
        QVERIFY(after < 0.6 * before);
        QVERIFY(few.layers[0].direct.data == straight.data);
    }

    /// A map holds for the state that it was baked for; of another it is told to be stale, and not used.
    void a_stale_map_is_told_and_left() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const LightMapOptions options{2, 4, 1};
        const Setup setup = mapped_setup(options);
        std::string remark;
        QVERIFY(!baked_light_of(t.scene, setup, &remark) && remark.find("baked yet") != std::string::npos);
        {
            auto bake = LightMapBake::begin(t.scene, setup, options);
            (*bake)->work(1);
            QVERIFY((*bake)->progress().done < (*bake)->progress().all);
            QVERIFY((*bake)->keep().has_value());
        }
        QVERIFY(!baked_light_of(t.scene, setup, &remark) &&
                remark.find("not computed to its end") != std::string::npos);
        bake_map(t.scene, setup, options);
        const auto baked = baked_light_of(t.scene, setup, &remark);
        QVERIFY(baked && remark.empty());
        QVERIFY(baked->holds(1));
        // Options that were not baked: the map that there is, and a word about it.
        const auto other = baked_light_of(t.scene, mapped_setup({4, 4, 1}), &remark);
        QVERIFY(other && remark.find("2 texels a metre") != std::string::npos);
        // The scene with it: the same objects and triangles, each with its place.
        const Scene lit = with_baked_light(t.scene, setup);
        QVERIFY(lit.baked && lit.objects().size() == t.scene.objects().size());
        for (std::size_t o = 0; o < lit.objects().size(); ++o) {
            const Primitive &p = lit.asset->primitives[std::size_t(lit.objects()[o].primitive)],
                            &plain = t.scene.asset->primitives[std::size_t(t.scene.objects()[o].primitive)];
            QCOMPARE(p.indices.size(), plain.indices.size());
            QVERIFY(lit.objects()[o].map != 0 && p.places.size() == p.vertices.size());
            for (std::size_t i = 0; i < p.indices.size(); ++i)
                QVERIFY(p.vertices[p.indices[i]].position == plain.vertices[plain.indices[i]].position);
        }
        QVERIFY(with_baked_light(lit, setup).asset == lit.asset);
        // Lights of the map are left out where nothing live takes them up, and kept where something does.
        View view;
        view.width = view.height = 64;
        view.camera.eye = {2, 1.5f, 3};
        view.camera.aim = {2, 0.5f, 0};
        const DrawList all = build_draw_list(t.scene, lambert(), view), left = build_draw_list(t.scene, setup, view);
        QCOMPARE(int(all.lights.size()), 1);
        QVERIFY(left.lights.empty() && left.lightsBaked == 1);
        t.scene.lights[0].intensity = 100;
        QVERIFY(!baked_light_of(t.scene, setup, &remark) && remark.find("stale") != std::string::npos);
        QVERIFY(!with_baked_light(t.scene, setup).baked);
        t.scene.lights[0].intensity = 200;
        QVERIFY(baked_light_of(t.scene, setup, &remark) == baked);
        Scene painted = t.scene;
        auto asset = std::make_shared<SceneAsset>(*painted.asset);
        asset->materials[0].baseColor = {0.1f, 0.2f, 0.3f, 1};
        painted.asset = asset;
        QVERIFY(!baked_light_of(painted, setup, &remark) && remark.find("stale") != std::string::npos);
        Setup lighter = setup;
        QVERIFY(lighter.set_text("ambient.kind", "constant").has_value());
        QVERIFY(!baked_light_of(t.scene, lighter, &remark) && remark.find("stale") != std::string::npos);
    }
};

MIROLUX_TEST(baked_light_test)
#include "baked_light_test.moc"
