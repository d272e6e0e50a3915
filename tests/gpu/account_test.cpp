#include "core/account/ledger.h"
#include "core/account/pixel_account.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

static const char* const all_paths[] = {"forward",        "additive",      "deferred",           "volumes",
                                        "tiled-deferred", "tiled-forward", "clustered-deferred", "clustered-forward"};

static FrameRecord rendered(const Scene& scene, const Setup& setup, const View& view, RenderOptions o) {
    o.picture = false;
    auto record = session().render(scene, setup, view, o);
    if (!record) qFatal("%s", to_text(record.error()).c_str());
    return std::move(*record);
}

static PixelAccount account_of(const Scene& scene, const Setup& setup, const View& view, glm::ivec2 pixel) {
    RenderOptions o;
    o.fencedSamples = 0;
    o.lightLists = true;
    o.probe = pixel;
    const FrameRecord r = rendered(scene, setup, view, o);
    return pixel_account(scene, setup, view, build_draw_list(scene, setup, view), *r.probe, r.lightGrid,
                         r.transparentGrid);
}

static double summed(const FloatImage& image) {
    double total = 0;
    for (std::size_t i = 0; i < image.data.size(); i += 4)
        total += 0.2126 * image.data[i] + 0.7152 * image.data[i + 1] + 0.0722 * image.data[i + 2];
    return total;
}

/// Panes of plain colours, one behind the other along z, all unlit.
static Scene panes(const std::vector<std::pair<glm::vec4, float>>& colorsAndZ, bool backwards = false) {
    SceneAsset a;
    a.materials.push_back(plain_material({0.2f, 0.3f, 0.4f}, 0, 1));
    a.materials[0].unlit = true;
    add_quad(a, 0, {-4, -4, -20}, {8, 0, 0}, {0, 8, 0});
    add_quad(a, 0, {4, -4, 20}, {-8, 0, 0}, {0, 8, 0});
    std::vector<std::size_t> order(colorsAndZ.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = backwards ? order.size() - 1 - i : i;
    for (const std::size_t i : order) {
        Material m = plain_material(glm::vec3(colorsAndZ[i].first), 0, 1);
        m.baseColor.a = colorsAndZ[i].first.a;
        m.unlit = true;
        m.alphaMode = AlphaMode::blend;
        m.doubleSided = true;
        a.materials.push_back(m);
        add_quad(a, static_cast<int>(a.materials.size() - 1), {-4, -4, colorsAndZ[i].second}, {8, 0, 0}, {0, 8, 0});
    }
    Scene s;
    s.asset = finished(std::move(a));
    return s;
}

class account_test : public QObject {
    Q_OBJECT
private slots:
    void accounts_sum_to_the_picture_on_every_path() {
        double worst = 0;
        int pixels = 0;
        for (const char* path : all_paths)
            for (const char* kind : {"sorted", "peeled"}) {
                const Setup s = setup_with({{"path.kind", path},
                                            {"path.targetFormat", "rgba32f"},
                                            {"gbuffer.packing", "full"},
                                            {"transparency.kind", kind}});
                for (std::uint32_t seed = 1; seed <= (std::string(kind) == "sorted" ? 2u : 1u); ++seed) {
                    const Scene scene = random_scene(seed, 40);
                    const View view = view_from({5, 3, 11}, {0, 1, 0}, 97, 61);
                    for (const glm::ivec2 p : {glm::ivec2(3, 4), {48, 30}, {20, 45}, {70, 40}, {60, 22}, {96, 60}}) {
                        const PixelAccount a = account_of(scene, s, view, p);
                        QVERIFY2(a.difference < 1e-3, qPrintable(QString("%1 %2 seed %3 at %4,%5: %6")
                                                                     .arg(path)
                                                                     .arg(kind)
                                                                     .arg(seed)
                                                                     .arg(p.x)
                                                                     .arg(p.y)
                                                                     .arg(a.difference)));
                        QVERIFY(!a.reason.empty());
                        worst = std::max(worst, a.difference);
                        ++pixels;
                    }
                }
            }
        qInfo("%d pixels, largest difference %.1e", pixels, worst);
    }

    void accounts_sum_to_the_demo_picture() {
        const auto [scene, view, cameras] = demo();
        double worst = 0;
        for (const char* path : {"clustered-forward", "deferred"})
            for (int i = 0; i < 24; ++i) {
                const PixelAccount a = account_of(
                    scene,
                    setup_with({{"path.kind", path}, {"path.targetFormat", "rgba32f"}, {"gbuffer.packing", "full"}}),
                    view, {(i * 67) % 320, (i * 41 + 20) % 180});
                worst = std::max(worst, a.difference);
            }
        qInfo("largest difference %.1e", worst);
        QVERIFY(worst < 1e-3);
    }

    /// One lamp over a white plane: each way in which a pixel can be dark has its word.
    void reasons_say_why_it_is_dark() {
        Scene scene;
        scene.asset = white_plane();
        Light lamp;
        lamp.id = 7;
        lamp.name = "lamp";
        lamp.type = LightType::spot;
        lamp.position = {0, 3, 0};
        lamp.direction = {0, -1, 0};
        lamp.outerConeAngle = 0.4f;
        lamp.intensity = 50;
        lamp.range = 8;
        scene.lights = {lamp};
        const View view = view_from({0, 6, 9}, {0, 0, 0}, 64, 48);
        const Setup s = setup_with({{"path.kind", "deferred"}, {"ambient.kind", "none"}});
        const auto has = [](const PixelAccount& a, const char* text) {
            return QString::fromStdString(a.reason).contains(text);
        };
        const PixelAccount lit = account_of(scene, s, view, {32, 24});
        QVERIFY2(has(lit, "comes from lamp"), lit.reason.c_str());
        QCOMPARE(lit.surfaces.at(0).lights.at(0).standing, LightStanding::gives);
        QVERIFY2(has(account_of(scene, s, view, {14, 24}), "outside every cone"),
                 account_of(scene, s, view, {14, 24}).reason.c_str());
        scene.lights[0].range = 1;
        QVERIFY(has(account_of(scene, s, view, {32, 24}), "no light in range"));
        scene.lights[0].range = 8;
        scene.lights[0].position.y = -3;
        scene.lights[0].direction.y = 1;
        QVERIFY(has(account_of(scene, s, view, {32, 24}), "faces away"));
        // Nine lamps, one taken: the limit drops the rest.
        scene.lights = {};
        for (int i = 0; i < 9; ++i) {
            lamp.id = i;
            lamp.name = "lamp " + std::to_string(i);
            scene.lights.push_back(lamp);
        }
        const PixelAccount limited = account_of(scene, setup_with({{"path.maxLights", "1"}}), view, {32, 24});
        QVERIFY2(has(limited, "8 lights dropped by the limit"), limited.reason.c_str());
        QVERIFY(has(account_of(scene, setup_with({{"path.kind", "tiled-deferred"}, {"culling.listCapacity", "8"}}),
                               view, {32, 24}),
                    "1 light dropped by a full list"));
    }

    /// Oracle: the picture with a light less what it is without it.
    void contributions_are_what_the_picture_loses_without_the_light() {
        for (const char* path : all_paths) {
            const Setup s = setup_with({{"path.kind", path},
                                        {"path.maxLights", "64"},
                                        {"path.targetFormat", "rgba32f"},
                                        {"gbuffer.packing", "full"}});
            Scene scene = random_scene(4, 8);
            const View view = view_from({5, 3, 11}, {0, 1, 0}, 97, 61);
            RenderOptions o;
            o.ledger = true;
            o.floatLayers = {"final"};
            const FrameRecord whole = rendered(scene, s, view, o);
            QVERIFY(!whole.instrumented);
            const double total = summed(whole.floats.at("final"));
            for (const LightShare& share : whole.ledger) {
                Scene without = scene;
                for (Light& l : without.lights)
                    if (l.id == share.light) l.enabled = false;
                const double lost = total - summed(hdr(without, s, view));
                QVERIFY2(std::abs(share.luminance - lost) < 2e-3 * lost + 2e-5 * total,
                         qPrintable(QString("%1 light %2: %3 entered, %4 lost")
                                        .arg(path)
                                        .arg(share.light)
                                        .arg(share.luminance)
                                        .arg(lost)));
            }
        }
    }

    void ledger_counts_the_evaluations_that_the_counters_count() {
        const Scene scene = random_scene(4, 40);
        const View view = view_from({5, 3, 11}, {0, 1, 0}, 97, 61);
        for (const char* path : all_paths) {
            RenderOptions o;
            o.ledger = o.count = true;
            o.floatLayers = {"final"};
            const FrameRecord r = rendered(scene, setup_with({{"path.kind", path}}), view, o);
            std::uint64_t counted = 0;
            for (const PassRecord& p : r.passes)
                counted += p.work.at("lightEvaluations");
            const Ledger ledger = make_ledger(scene, r);
            QVERIFY2(ledger.evaluations == counted,
                     qPrintable(QString("%1: ledger %2, counters %3").arg(path).arg(ledger.evaluations).arg(counted)));
            double shares = 0;
            for (const LedgerRow& row : ledger.rows)
                shares += row.costShare;
            QVERIFY(std::abs(shares - 1) < 1e-9);
            QVERIFY(ledger.lightShare > 0.05 && ledger.lightShare <= 1.0);
            const auto byCost = ordered(ledger, LedgerOrder::cost);
            QVERIFY(ledger.rows[byCost.front()].costShare >= ledger.rows[byCost.back()].costShare);
        }
    }

    /// Closed form: panes over a wall, nearest first, whatever the order they are drawn in.
    void peeled_panes_match_the_closed_form_from_both_sides() {
        const std::vector<std::pair<glm::vec4, float>> list = {{{0.9f, 0.1f, 0.1f, 0.5f}, 2},
                                                               {{0.1f, 0.8f, 0.2f, 0.3f}, -1},
                                                               {{0.2f, 0.3f, 1.0f, 0.7f}, 5},
                                                               {{1, 1, 0, 0.2f}, 0}};
        for (const bool backwards : {false, true})
            for (const float side : {1.0f, -1.0f})
                for (const int layers : {1, 2, 6}) {
                    auto order = list;
                    std::sort(order.begin(), order.end(),
                              [side](const auto& a, const auto& b) { return a.second * side > b.second * side; });
                    order.resize(std::min<std::size_t>(order.size(), static_cast<std::size_t>(layers)));
                    glm::vec3 wanted(0);
                    float through = 1;
                    for (const auto& [c, z] : order) {
                        wanted += through * c.a * glm::vec3(c);
                        through *= 1 - c.a;
                    }
                    wanted += through * glm::vec3(0.2f, 0.3f, 0.4f);
                    const FloatImage got = hdr(panes(list, backwards),
                                               setup_with({{"transparency.kind", "peeled"},
                                                           {"transparency.layers", std::to_string(layers)},
                                                           {"path.targetFormat", "rgba32f"}}),
                                               view_from({0, 0, 9 * side}, {0, 0, 0}, 16, 16));
                    for (int c = 0; c < 3; ++c)
                        QVERIFY2(std::abs(got.data[4 * (8 * 16 + 8) + static_cast<std::size_t>(c)] - wanted[c]) < 1e-5f,
                                 qPrintable(QString("layers %1 side %2").arg(layers).arg(side)));
                }
    }

    /// Two crossing panes: no order of whole objects is right on both sides of the crossing; peeling is.
    void peeling_is_right_where_panes_cross() {
        SceneAsset a;
        for (const glm::vec4 c : {glm::vec4(1, 0, 0, 0.5f), {0, 0, 1, 0.5f}}) {
            Material m = plain_material(glm::vec3(c), 0, 1);
            m.baseColor.a = c.a;
            m.unlit = m.doubleSided = true;
            m.alphaMode = AlphaMode::blend;
            a.materials.push_back(m);
        }
        add_quad(a, 0, {-4, -4, -2}, {8, 0, 4}, {0, 8, 0});
        add_quad(a, 1, {-4, -4, 2}, {8, 0, -4}, {0, 8, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        const FloatImage got =
            hdr(scene, setup_with({{"transparency.kind", "peeled"}, {"path.targetFormat", "rgba32f"}}),
                view_from({0, 0, 12}, {0, 0, 0}, 32, 32));
        const auto pixel = [&](int x) {
            return glm::vec3(got.data[4 * (16 * 32 + x)], got.data[4 * (16 * 32 + x) + 1],
                             got.data[4 * (16 * 32 + x) + 2]);
        };
        QVERIFY(glm::length(pixel(10) - glm::vec3(0.25f, 0, 0.5f)) < 1e-5f); // blue is nearer on the left
        QVERIFY(glm::length(pixel(21) - glm::vec3(0.5f, 0, 0.25f)) < 1e-5f); // red on the right
    }
};

MIROLUX_TEST(account_test)
#include "account_test.moc"
