#include "core/cull/light_grid.h"
#include "core/plan/draw_list.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// A depth picture of slopes, steps and holes, seeded.
cull::DepthPicture made_depth(int width, int height, std::uint32_t seed) {
    std::mt19937 r(seed);
    cull::DepthPicture d{width, height, std::vector<float>(std::size_t(width) * height)};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const float near = 3.0f + 0.02f * static_cast<float>(y), far = 14.0f + 0.05f * static_cast<float>(x);
            const bool column = (x / 23 + static_cast<int>(seed)) % 3 == 0;
            d.metres[std::size_t(y) * width + x] = r() % 40 == 0 ? 0.0f : column ? near : far;
        }
    return d;
}

std::vector<Light> made_lights(std::uint32_t seed, int count) {
    std::mt19937 r(seed);
    std::vector<Light> lights;
    for (int i = 0; i < count; ++i) {
        Light l;
        l.type = r() % 2 ? LightType::spot : LightType::point;
        l.position = {random_in(r, -12, 12), random_in(r, -6, 6),
                      random_in(r, -22, 4)}; // around and behind the camera too
        l.direction =
            glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) + glm::vec3(1e-3f));
        l.outerConeAngle = glm::radians(random_in(r, 5, 89));
        l.range = random_in(r, 0.5f, 7);
        l.intensity = random_in(r, 1, 50);
        lights.push_back(l);
    }
    return lights;
}

} // namespace

class cull_test : public QObject {
    Q_OBJECT
private slots:
    /// Every combination of settings at odd sizes: no light that reaches a sample is missing from its list.
    void no_combination_misses_a_light() {
        using namespace cull;
        int grids = 0;
        for (const auto& [width, height] : {std::pair(1, 1), {17, 33}, {161, 93}})
            for (std::uint32_t seed = 1; seed <= 3; ++seed) {
                const View view = view_from({0, 0, 0}, {0.1f, 0.05f, -1}, width, height);
                const std::vector<Light> lights = made_lights(seed, 150);
                std::vector<float> reach;
                for (const Light& l : lights)
                    reach.push_back(derived_range(l, 0.05f));
                const auto seen = view_lights(lights, reach, 0, view.camera);
                const DepthPicture depth = made_depth(width, height, seed);
                for (const int tile : {8, 16, 32, 64})
                    for (const DepthBounds bounds : {DepthBounds::off, DepthBounds::minMax, DepthBounds::mask})
                        for (const TileTest test : {TileTest::spherePlanes, TileTest::sphereBox})
                            for (const bool cone : {false, true})
                                for (const int slices : {1, 12}) {
                                    GridSettings s;
                                    s.tile = tile;
                                    s.depthBounds = bounds;
                                    s.test = test;
                                    s.coneTest = cone;
                                    s.slices = slices;
                                    s.capacity = 1024;
                                    const Audit a = audit(cull_lights(seen, 5, view, depth, s),
                                                          exact_lists(seen, 5, view, depth, s));
                                    QCOMPARE(a.missed, std::uint64_t(0));
                                    QCOMPARE(a.overflow, std::uint64_t(0));
                                    QVERIFY(a.listed >= a.needed);
                                    ++grids;
                                }
            }
        QCOMPARE(grids, 9 * 96);
    }

    void each_refinement_lists_no_more_than_the_one_before() {
        using namespace cull;
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 320, 180);
        const std::vector<Light> lights = made_lights(9, 300);
        std::vector<float> reach;
        for (const Light& l : lights)
            reach.push_back(l.range);
        const auto seen = view_lights(lights, reach, 0, view.camera);
        const DepthPicture depth = made_depth(320, 180, 2);
        std::uint64_t before = ~0ull;
        for (const DepthBounds bounds : {DepthBounds::off, DepthBounds::minMax, DepthBounds::mask}) {
            GridSettings s;
            s.depthBounds = bounds;
            s.capacity = 1024;
            const std::uint64_t listed = cull_lights(seen, 0, view, depth, s).indices.size();
            QVERIFY(listed <= before);
            before = listed;
        }
    }

    void a_full_list_keeps_the_strongest_and_counts_the_rest() {
        using namespace cull;
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 16, 16);
        std::vector<Light> lights;
        for (int i = 0; i < 40; ++i) {
            Light l;
            l.position = {0, 0, -5};
            l.range = 20;
            l.intensity = static_cast<float>((i * 7) % 40 + 1);
            lights.push_back(l);
        }
        const auto seen = view_lights(lights, std::vector<float>(40, 20.0f), 0, view.camera);
        GridSettings s;
        s.capacity = 8;
        const LightGrid g = cull_lights(seen, 0, view, {16, 16, std::vector<float>(256, 5.0f)}, s);
        QCOMPARE(g.overflow, std::uint64_t(32));
        QCOMPARE(g.overflowCells, 1);
        QCOMPARE(g.indices.size(), std::size_t(8));
        QVERIFY(std::is_sorted(g.indices.begin(), g.indices.end()));
        for (const std::uint32_t i : g.indices)
            QVERIFY(lights[i].intensity > 32);
    }

    void a_list_with_a_light_taken_out_is_caught() {
        using namespace cull;
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 64, 64);
        const std::vector<Light> lights = made_lights(4, 60);
        const auto seen = view_lights(lights, std::vector<float>(60, 6.0f), 0, view.camera);
        const DepthPicture depth = made_depth(64, 64, 3);
        GridSettings s;
        const LightGrid exact = exact_lists(seen, 0, view, depth, s);
        QVERIFY(!exact.indices.empty());
        LightGrid broken = exact;
        std::size_t cell = 0;
        while (broken.count(cell) == 0)
            ++cell;
        broken.indices.erase(broken.indices.begin() + broken.offsets[cell]);
        for (std::size_t c = cell + 1; c < broken.offsets.size(); ++c)
            --broken.offsets[c];
        const Audit a = audit(broken, exact);
        QCOMPARE(a.missed, std::uint64_t(1));
        QCOMPARE(a.worstCell, static_cast<int>(cell));
    }

    void slices_hold_the_depths_that_they_are_given() {
        cull::GridSettings s;
        s.slices = 24;
        for (const float exponent : {0.25f, 1.0f, 1.7f, 4.0f}) {
            s.sliceExponent = exponent;
            int before = 0;
            for (float d = 0.05f; d < 500; d *= 1.003f) {
                const int slice = cull::slice_of(d, s);
                const auto [near, far] = cull::slice_range(slice, s, 0.01f);
                QVERIFY(d >= near && d <= far);
                QVERIFY(slice >= before);
                before = slice;
            }
            QCOMPARE(before, 23);
        }
    }

    /// Blended surfaces stand anywhere before the opaque ones: lights at random points of the space before them are all
    /// listed.
    void transparent_lists_miss_no_light_before_the_opaque_surface() {
        using namespace cull;
        for (const int slices : {1, 9})
            for (const DepthBounds bounds : {DepthBounds::off, DepthBounds::minMax, DepthBounds::mask}) {
                const View view = view_from({0, 0, 0}, {0, 0, -1}, 161, 93);
                const std::vector<Light> lights = made_lights(4, 120);
                std::vector<float> reach;
                for (const Light& l : lights)
                    reach.push_back(derived_range(l, 0.05f));
                const auto seen = view_lights(lights, reach, 0, view.camera);
                const DepthPicture depth = made_depth(161, 93, 2);
                GridSettings s;
                s.slices = slices;
                s.depthBounds = bounds;
                const LightGrid g = cull_transparent(seen, 0, view, depth, s),
                                opaque = cull_lights(seen, 0, view, depth, s);
                QVERIFY(g.indices.size() >= opaque.indices.size());
                std::mt19937 r(6);
                const float ty = std::tan(0.5f * view.camera.fovY), tx = ty * 161.0f / 93.0f;
                for (int k = 0; k < 4000; ++k) {
                    const int x = static_cast<int>(r() % 161), y = static_cast<int>(r() % 93);
                    const float behind = depth.metres[std::size_t(y) * 161 + x], far = behind > 0 ? behind : 80.0f,
                                d = view.camera.near + (far - view.camera.near) * random01(r);
                    const glm::vec3 p((2 * (static_cast<float>(x) + 0.5f) / 161 - 1) * tx * d,
                                      (1 - 2 * (static_cast<float>(y) + 0.5f) / 93) * ty * d, -d);
                    const std::size_t cell =
                        (std::size_t(slice_of(d, s)) * g.rows + y / s.tile) * g.columns + x / s.tile;
                    for (std::uint32_t l = 0; l < seen.size(); ++l) {
                        const glm::vec3 v = p - seen[l].position;
                        if (glm::length(v) > seen[l].reach ||
                            (seen[l].cosOuter > -1 &&
                             glm::dot(v, seen[l].direction) <= seen[l].cosOuter * glm::length(v)))
                            continue;
                        QVERIFY(std::binary_search(g.indices.begin() + g.offsets[cell],
                                                   g.indices.begin() + g.offsets[cell + 1], l));
                    }
                }
            }
    }

    /// The time promised: 16,384 lights against 3,600 tiles.
    void culling_16384_lights_against_3600_tiles() {
        using namespace cull;
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 1280, 720);
        std::mt19937 r(5);
        std::vector<CullLight> lights;
        for (int i = 0; i < 16384; ++i) {
            CullLight l;
            l.position = {random_in(r, -30, 30), random_in(r, -15, 15), random_in(r, -60, -1)};
            l.reach = random_in(r, 0.3f, 1.2f);
            l.bounds = {l.position, l.reach};
            l.strength = 1;
            lights.push_back(l);
        }
        const DepthPicture depth = made_depth(1280, 720, 1);
        GridSettings s;
        QBENCHMARK {
            (void)cull_lights(lights, 0, view, depth, s);
        }
        std::vector<double> ms;
        for (int i = 0; i < 7; ++i) {
            QElapsedTimer clock;
            clock.start();
            const LightGrid g = cull_lights(lights, 0, view, depth, s);
            ms.push_back(static_cast<double>(clock.nsecsElapsed()) * 1e-6);
            QCOMPARE(g.cells(), std::size_t(3600));
        }
        std::sort(ms.begin(), ms.end());
        qInfo("best %.1f ms, median %.1f ms", ms.front(), ms[3]);
        QVERIFY2(ms.front() < 240 || sanitized,
                 qPrintable(QString::number(ms.front()))); // the goal is 60; this fails on a real loss only
    }
};

MIROLUX_TEST(cull_test)
#include "cull_test.moc"
