#include "core/account/occluders.h"
#include "core/io/wire.h"
#include "core/shadow/bias_solver.h"
#include "core/shadow/cascades.h"
#include "core/shadow/shadow_atlas.h"
#include "core/shadow/shadow_maps.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <map>

using namespace mirolux;
using namespace mirolux::test;

/// Where shadow maps lie: the sun's slices of the view, and the atlas.
class shadow_test : public QObject {
    Q_OBJECT

    static View random_view(std::mt19937& r) {
        const glm::vec3 eye(random_in(r, -50, 50), random_in(r, 0.5f, 20), random_in(r, -50, 50));
        View v = view_from(eye, eye + glm::vec3(random_in(r, -1, 1), random_in(r, -0.8f, 0.8f), 1.3f), 640, 360);
        v.camera.fovY = random_in(r, 0.4f, 1.6f);
        v.camera.near = random_in(r, 0.05f, 0.5f);
        return v;
    }
    static glm::dvec3 random_sun(std::mt19937& r) {
        return glm::normalize(glm::dvec3(random_in(r, -1, 1), random_in(r, -1, -0.05f), random_in(r, -1, 1)));
    }
    /// A point of the view at a depth; s: -1 to 1 across the picture.
    static glm::dvec3 point_at(const View& v, double depth, const glm::dvec2& s) {
        const glm::dmat3 toWorld = glm::transpose(glm::dmat3(glm::mat3(view_matrix(v.camera))));
        const double high = std::tan(0.5 * v.camera.fovY);
        return glm::dvec3(v.camera.eye) +
               depth * (-toWorld[2] + s.x * high * v.width / v.height * toWorld[0] + s.y * high * toWorld[1]);
    }

private slots:
    void slices_end_between_even_steps_and_equal_ratios() {
        CascadeChoices c;
        c.distance = 81;
        c.spread = 1;
        const auto ratio = slice_ends(1, c);
        QCOMPARE(ratio.size(), std::size_t(4));
        for (int i = 0; i < 4; ++i)
            QVERIFY(std::abs(ratio[std::size_t(i)] - std::pow(3, i + 1)) < 1e-9);
        c.spread = 0;
        const auto even = slice_ends(1, c);
        for (int i = 0; i < 4; ++i)
            QVERIFY(std::abs(even[std::size_t(i)] - (1 + 20.0 * (i + 1))) < 1e-9);
        // By hand: what lies within, ascending, and no more than there are.
        c.ends = {5, 3, 20, 500, 40, 60};
        QVERIFY((slice_ends(1, c) == std::vector<double>{5, 20, 40, 81}));
        c.count = 2;
        QVERIFY((slice_ends(1, c) == std::vector<double>{5, 81}));
        c.ends.clear();
        c.count = 1;
        QVERIFY((slice_ends(1, c) == std::vector<double>{81}));
    }

    /// 10,000 places of views: the map that is looked up holds the place, and so does the one that it blends into.
    void cascades_hold_what_is_looked_up_in_them() {
        std::mt19937 r(4);
        int blends = 0;
        for (int k = 0; k < 250; ++k) {
            const View v = random_view(r);
            CascadeChoices c;
            c.count = 1 + k % 4;
            c.spread = random_in(r, 0, 1);
            c.distance = random_in(r, 20, 300);
            c.blend = random_in(r, 0, 0.5f);
            c.fade = random_in(r, 0, 0.5f);
            c.resolution = 256 << k % 3;
            c.fit = k % 2 ? CascadeFit::sphere : CascadeFit::slice;
            const auto all = cascades(v, random_sun(r), c);
            QCOMPARE(int(all.size()), c.count);
            for (int i = 0; i < 40; ++i) {
                const double depth = i == 0 ? v.camera.near : random_in(r, v.camera.near, float(c.distance) * 0.9999f);
                const glm::dvec3 p = point_at(v, depth, {random_in(r, -1, 1), random_in(r, -1, 1)});
                const CascadeLookup at = cascade_at(all, depth, c);
                QVERIFY(at.first >= 0 && at.share >= 0 && at.share <= 1 && at.strength > 0 && at.strength <= 1);
                for (int n = at.first; n <= at.first + (at.share > 0); ++n) {
                    QVERIFY(n < int(all.size()));
                    const Cascade& m = all[std::size_t(n)];
                    QVERIFY(depth >= m.coversFrom - 1e-9 && depth <= m.to);
                    const glm::dvec4 l = m.toMap * glm::dvec4(p, 1);
                    const double inside = 1 - 2.0 / c.resolution; // a texel to spare
                    QVERIFY2(std::abs(l.x) <= inside + 1e-9 && std::abs(l.y) <= inside + 1e-9 && l.z >= 0 && l.z <= 1,
                             qPrintable(QString("view %1, map %2: %3 %4 %5").arg(k).arg(n).arg(l.x).arg(l.y).arg(l.z)));
                }
                blends += at.share > 0;
            }
            QCOMPARE(cascade_at(all, c.distance, c).first, -1);
            QCOMPARE(all.front().from, double(v.camera.near));
            for (std::size_t i = 1; i < all.size(); ++i)
                QCOMPARE(all[i].from, all[i - 1].to);
        }
        QVERIFY(blends > 500);
    }

    /// Whatever the camera does, texels of spheres lie where they lay: corners on multiples of one width.
    void texels_stay_where_they_are_while_the_camera_moves() {
        std::mt19937 r(6);
        for (int k = 0; k < 40; ++k) {
            View v = random_view(r);
            const glm::dvec3 sun = random_sun(r);
            const glm::dmat3 axes = light_axes(sun);
            QVERIFY(std::abs(glm::determinant(axes) - 1) < 1e-9);
            CascadeChoices c;
            const auto before = cascades(v, sun, c);
            int still = 0;
            for (int move = 0; move < 25; ++move) {
                View moved = v;
                const float far = move % 2 ? 0.002f : 3;
                const glm::vec3 by(random_in(r, -far, far), random_in(r, -far, far), random_in(r, -far, far));
                moved.camera.eye += by;
                moved.camera.aim += by;
                if (move % 2 == 0) moved.camera.aim += glm::vec3(random_in(r, -0.5f, 0.5f), 0, 0);
                const auto after = cascades(moved, sun, c);
                for (std::size_t i = 0; i < after.size(); ++i) {
                    QVERIFY(std::abs(after[i].texel / before[i].texel - 1) < 1e-12);
                    const glm::dvec2 steps = glm::dvec2(after[i].corner - before[i].corner) / before[i].texel;
                    QVERIFY(glm::length(steps - glm::round(steps)) < 1e-6);
                    still += after[i].toMap == before[i].toMap;
                    // A place of the world falls on the same part of a texel in both.
                    const glm::dvec3 p = point_at(v, after[i].from + 0.5, {0.1, 0.2});
                    const glm::dvec2 a = (glm::dvec2(before[i].toMap * glm::dvec4(p, 1)) * 0.5 + 0.5) * 1024.0,
                                     b = (glm::dvec2(after[i].toMap * glm::dvec4(p, 1)) * 0.5 + 0.5) * 1024.0;
                    QVERIFY(glm::length((a - b) - glm::round(a - b)) < 1e-5);
                }
            }
            QVERIFY2(still > 12, qPrintable(QString::number(still))); // small moves mostly change no map at all
        }
    }

    void odd_views_have_no_maps() {
        std::mt19937 r(1);
        View v = random_view(r);
        CascadeChoices c;
        QVERIFY(cascades(v, {0, -1, 0}, c).size() == 4); // straight down
        c.distance = 0.01;
        QVERIFY(cascades(v, {0, -1, 0}, c).empty());
        c.distance = 100;
        v.width = 0;
        QVERIFY(cascades(v, {0, -1, 0}, c).empty());
        QCOMPARE(cascade_at({}, 5, c).first, -1);
    }

    /// Squares within the atlas that overlap nowhere, larger for the more important, as many as fit.
    void the_atlas_gives_room_by_importance() {
        std::mt19937 r(12);
        int refused = 0, halved = 0;
        for (int k = 0; k < 200; ++k) {
            AtlasChoices c;
            c.size = 512 << k % 3;
            c.casters = 4 + k % 60;
            c.most = 1024;
            c.least = k % 2 ? 32 : 64;
            std::vector<MapWish> wishes;
            std::map<int, MapWish> of;
            for (int i = 0; i < 5 + k % 70; ++i) {
                MapWish w{i, std::pow(10.0, random_in(r, -4, 2)), i % 5 == 0 ? 6 : 1, i % 11 == 3 ? 128 : 0};
                wishes.push_back(w);
                of[i] = w;
            }
            const ShadowAtlas atlas = shadow_atlas(wishes, c);
            std::map<int, int> size, faces;
            for (const MapPlace& p : atlas.places) {
                QVERIFY(p.x >= 0 && p.y >= 0 && p.x + p.size <= atlas.size && p.y + p.size <= atlas.size);
                QVERIFY(p.size >= c.least && (p.size & (p.size - 1)) == 0 && p.x % p.size == 0 && p.y % p.size == 0);
                QVERIFY(!size.count(p.light) || size[p.light] == p.size);
                size[p.light] = p.size;
                ++faces[p.light];
                for (const MapPlace& q : atlas.places) {
                    if (&p == &q) continue;
                    const bool apart =
                        p.x + p.size <= q.x || q.x + q.size <= p.x || p.y + p.size <= q.y || q.y + q.size <= p.y;
                    QVERIFY(apart);
                }
            }
            QVERIFY(int(size.size()) <= c.casters);
            QCOMPARE(size.size() + atlas.refused.size(), wishes.size());
            for (const auto& [light, n] : faces)
                QCOMPARE(n, of[light].faces);
            for (const auto& [a, sizeA] : size)
                for (const auto& [b, sizeB] : size)
                    if (of[a].size == 0 && of[b].size == 0 && of[a].importance > of[b].importance)
                        QVERIFY(sizeA >= sizeB);
            // Nobody who is refused is more important than one who has a map.
            double least = 1e300;
            for (const auto& [light, s] : size)
                least = std::min(least, of[light].importance);
            for (const MapRefused& n : atlas.refused) {
                QVERIFY(n.why != NoMap::none && of[n.light].importance <= least);
                refused += n.why == NoMap::budget;
            }
            for (const auto& [light, s] : size)
                halved += s < c.most && of[light].importance > 0.9 * 100;
        }
        QVERIFY2(refused > 0 && halved > 0, qPrintable(QString("%1 %2").arg(refused).arg(halved)));
        // A size of one's own takes none from the others.
        const ShadowAtlas beside = shadow_atlas({{1, 1e30, 1, 256}, {2, 5, 1, 0}, {3, 1.25, 1, 0}}, {4096, 8, 512, 64});
        QCOMPARE(beside.places[0].size, 256);
        QCOMPARE(beside.places[1].size, 512);
        QCOMPARE(beside.places[2].size, 256);
        QVERIFY(shadow_atlas({}, {}).places.empty());
        QCOMPARE(shadow_atlas({{1, 1, 6, 0}}, {1024, 8, 1024, 64}).places.size(), std::size_t(6)); // made smaller
        QCOMPARE(shadow_atlas({{1, 1, 1, 0}}, {1024, 0, 1024, 64}).refused.at(0).why, NoMap::casters);
    }

    /// A plate over a plane: rays say what is open, and made-up pictures have the errors that were put in.
    void audits_find_the_errors_that_were_put_in() {
        SceneAsset asset;
        asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
        add_quad(asset, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        add_quad(asset, 0, {-2, 1, 2}, {4, 0, 0}, {0, 0, -4});
        Scene scene;
        scene.asset = finished(std::move(asset));
        Light l;
        l.id = 3;
        l.name = "lamp";
        l.type = LightType::spot;
        l.position = {0, 6, 0};
        l.outerConeAngle = 0.9f;
        l.intensity = 500;
        l.range = 30;
        scene.lights = {l};
        const View view = view_from({0, 3, 14}, {0, 0, 0}, 160, 90);
        Setup setup;
        QVERIFY(setup.set("shadow.maps", true).has_value());
        const DrawList draws = build_draw_list(scene, setup, view);
        const ShadowSet set = shadow_set(scene, setup, view, draws);
        QCOMPARE(set.lights.size(), std::size_t(1));
        QVERIFY(set.lights[0].kind == MapKind::single && set.maps[0].size == 512);
        const RayScene rays(scene);
        const ShadowTruth truth = trace_shadows(scene, setup, view, draws, set, rays);
        QVERIFY(truth.complete && truth.lights.size() == 1);
        const TracedLight& t = truth.lights[0];
        FloatImage right{160, 90, 1, std::vector<float>(160 * 90, 1.0f)};
        int closed = 0, open = 0, edge = 0;
        for (const ShadowPair& p : t.pairs) {
            right.data[p.pixel] = p.open;
            QVERIFY(p.open == 0 || p.open == 1); // a light without size
            (p.edge ? edge : p.open > 0 ? open : closed) += 1;
        }
        QVERIFY2(closed > 150 && open > 1000 && edge > 4,
                 qPrintable(QString("%1 %2 %3").arg(closed).arg(open).arg(edge)));
        const ShadowErrors none = shadow_errors(t, right);
        QVERIFY(none.missed() == 0 && none.falsely() == 0 && none.penumbra == 0);
        QCOMPARE(none.edge, std::uint64_t(edge));
        // Lit everywhere: all closed pairs are missed; dark everywhere: all open ones are false.
        const FloatImage lit{160, 90, 1, std::vector<float>(160 * 90, 1.0f)},
            dark{160, 90, 1, std::vector<float>(160 * 90, 0.0f)};
        const auto n = double(t.pairs.size());
        QVERIFY(std::abs(shadow_errors(t, lit).missed() - closed / n) < 1e-12 && shadow_errors(t, lit).falsely() == 0);
        QVERIFY(std::abs(shadow_errors(t, dark).falsely() - open / n) < 1e-12 && shadow_errors(t, dark).missed() == 0);
        // Under the plate, a metre off, nothing that is missed counts as near; on its top nothing is closed.
        std::vector<ShadowFault> faults(160 * 90, ShadowFault::none);
        mark_faults(t, lit, 0.5, faults);
        QCOMPARE(int(std::count(faults.begin(), faults.end(), ShadowFault::leaking)), closed);
        QCOMPARE(int(std::count(faults.begin(), faults.end(), ShadowFault::edge)), edge);
        faults.assign(160 * 90, ShadowFault::none);
        mark_faults(t, dark, 0.5, faults);
        QCOMPARE(int(std::count(faults.begin(), faults.end(), ShadowFault::acne)), open);
        // A source with a size: partly lit pairs appear, and the mean stays within the errors of 256 rays.
        scene.lights[0].sourceSize = 2.0f;
        const DrawList wide = build_draw_list(scene, setup, view);
        const ShadowTruth soft = trace_shadows(scene, setup, view, wide, shadow_set(scene, setup, view, wide), rays);
        int partly = 0;
        for (const ShadowPair& p : soft.lights[0].pairs)
            partly += p.open > 0 && p.open < 1;
        QVERIFY2(partly > 5, qPrintable(QString::number(partly)));
        // Stopped early it says so.
        QVERIFY(!trace_shadows(scene, setup, view, draws, set, rays, 1, [](double) { return false; }).complete);
    }

    /// Over a made-up law of errors the search finds the least missed under the bound.
    void the_search_finds_the_least_bias() {
        const auto law = [](const BiasSet& b) -> Result<ShadowErrors> {
            ShadowErrors e;
            e.pairs = 1000000;
            const double pushed = 8 * b.bias + 0.02 * b.slopeBias + 0.03 * b.normalOffset;
            e.falseSum = 1e6 * std::exp(-40 * pushed);
            e.missedSum = 1e6 * (0.02 * b.bias + 0.0001 * b.slopeBias + 0.0004 * b.normalOffset);
            return e;
        };
        const auto solved = solve_bias({0.25, 2, 2}, 0.002, law);
        QVERIFY(solved && solved->under && solved->best.falsely <= 0.002);
        for (const BiasPoint& p : solved->points)
            QVERIFY(p.falsely > 0.002 || p.missed >= solved->best.missed);
        QVERIFY(solved->best.missed < solved->before.missed);
        QVERIFY(solved->points.size() > 10 && solved->points.size() < 90);
        for (std::size_t i = 1; i < solved->front.size(); ++i)
            QVERIFY(solved->front[i].falsely > solved->front[i - 1].falsely &&
                    solved->front[i].missed < solved->front[i - 1].missed);
        // A bound that nothing meets: the least false, and said so.
        const auto never = solve_bias({0, 0, 0}, 0, [&](const BiasSet& b) -> Result<ShadowErrors> {
            auto e = law(b);
            e->falseSum += 1;
            return e;
        });
        QVERIFY(never && !never->under);
        for (const BiasPoint& p : never->points)
            QVERIFY(p.falsely >= never->best.falsely);
        const auto broken = solve_bias({0, 0, 0}, 0.1, [](const BiasSet&) -> Result<ShadowErrors> {
            return fail("the device is gone", "here", "");
        });
        QVERIFY(!broken);
    }

    /// Which lights take what: directional ones first, six faces of points and of very wide spots, none where a light
    /// wants none; every caster that a ray meets is in some map of its light.
    void every_caster_of_a_light_is_in_its_maps() {
        int met = 0;
        for (std::uint32_t seed = 1; seed <= 6; ++seed) {
            Scene scene = random_scene(seed, 16);
            scene.lights[3].shadow.mode = ShadowMode::none;
            const View view = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
            Setup setup;
            (void)setup.set("shadow.maps", true);
            (void)setup.set("shadow.casters", 16);
            (void)setup.set("cascade.distance", 40.0);
            (void)setup.set_text("shadow.blended", "whole");
            const DrawList draws = build_draw_list(scene, setup, view);
            const ShadowSet set = shadow_set(scene, setup, view, draws);
            const RayScene rays(scene);
            std::mt19937 r(seed);
            for (const ShadowedLight& s : set.lights) {
                const Light& l = draws.lights[std::size_t(s.light)];
                QVERIFY(l.id != 3);
                QCOMPARE(s.count, l.type == LightType::directional                        ? 4
                                  : l.type == LightType::point || l.outerConeAngle > 1.2f ? 6
                                                                                          : 1);
                for (int k = 0; k < 60; ++k) {
                    const glm::vec3 p(random_in(r, -8, 8), random_in(r, 0.01f, 3), random_in(r, -8, 8));
                    const bool sun = l.type == LightType::directional;
                    const glm::vec3 to = sun ? -l.direction : glm::normalize(l.position - p);
                    const float metres = sun ? 60.0f : glm::length(l.position - p);
                    if (!sun && (metres > draws.reach[std::size_t(s.light)] || metres < 0.5f)) continue;
                    if (l.type == LightType::spot && glm::dot(-to, l.direction) < std::cos(l.outerConeAngle)) continue;
                    const RayHit hit = rays.nearest_caster({p, to}, 1e-3f);
                    if (hit.object < 0 || hit.distance > metres - 0.35f * 1.8f) continue;
                    // In the map that holds the point.
                    bool found = false, held = false;
                    for (int m = s.first; m < s.first + s.count; ++m) {
                        const ShadowMap& map = set.maps[std::size_t(m)];
                        const glm::dvec4 c = map.toMap * glm::dvec4(p, 1);
                        if (c.w <= (map.perspective ? map.near : 0.0) || std::abs(c.x) > c.w || std::abs(c.y) > c.w ||
                            (!map.perspective && (c.z < 0 || c.z > 1)))
                            continue;
                        held = true;
                        found = found || std::count(map.casters.begin(), map.casters.end(), hit.object);
                    }
                    if (!held) continue;
                    QVERIFY2(found, qPrintable(QString("%1 %2").arg(seed).arg(l.name.c_str())));
                    ++met;
                }
            }
        }
        QVERIFY2(met > 300, qPrintable(QString::number(met)));
    }

    /// A light's own values go before the setup's, and come back from the project's file.
    void a_lights_own_shadow_is_kept() {
        Setup setup;
        Light l;
        l.id = 5;
        QVERIFY(shadow_look(l, setup).bias == setup.number("shadow.bias"));
        l.shadow.mode = ShadowMode::soft;
        l.shadow.bias = 0.125f;
        l.shadow.normalOffset = 3.0f;
        l.shadow.opacity = 0.5f;
        l.shadow.near = 0.75f;
        l.shadow.resolution = 256;
        const ShadowLook look = shadow_look(l, setup);
        QVERIFY(look.filter == ShadowFilter::pcss && look.bias == 0.125 && look.normalOffset == 3 &&
                look.opacity == 0.5 && look.near == 0.75 && look.resolution == 256 &&
                look.slopeBias == setup.number("shadow.slopeBias"));
        l.shadow.mode = ShadowMode::hard;
        QVERIFY(shadow_look(l, setup).filter == ShadowFilter::hard);
        const nlohmann::json j = nlohmann::json::parse(to_json(l).dump());
        QCOMPARE(j.at("shadow").size(), std::size_t(6));
        try {
            QVERIFY(light_from_json(JsonCursor(j), Light()) == l);
        } catch (const ReadFailure& f) {
            QFAIL((f.what + " at " + f.pointer).c_str());
        }
        l.shadow = {};
        QVERIFY(!to_json(l).contains("shadow"));
    }
};

MIROLUX_TEST(shadow_test)
#include "shadow_test.moc"
