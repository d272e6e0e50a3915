#include "core/account/pixel_account.h"
#include "core/path/path_kind.h"
#include "core/shadow/shadow_mask.h"
#include "shadowed.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Five lights and more, so that the mask has two sets; panes and masked surfaces among what is shown.
struct Masked {
    Scene scene = random_scene(3, 9);
    View view = view_from({-3, 3.5f, 11}, {0, 1, 0}, 193, 117);
};

std::vector<std::pair<std::string, std::string>> with_resolve(const std::string& path, const std::string& resolve) {
    return {{"path.kind", path},          {"path.maxLights", "64"},   {"shadow.casters", "9"},
            {"gbuffer.packing", "full"},  {"cascade.distance", "40"}, {"shadow.resolve", resolve},
            {"shadow.filter", "bilinear"}};
}

/// Pixels whose colours differ by more than this share of the larger one.
int pixels_off(const FloatImage& a, const FloatImage& b, float share) {
    int off = 0;
    for (std::size_t i = 0; i < a.data.size(); i += 4)
        for (std::size_t k = 0; k < 3; ++k)
            if (std::abs(a.data[i + k] - b.data[i + k]) > share * std::max({a.data[i + k], b.data[i + k], 0.02f})) {
                ++off;
                break;
            }
    return off;
}

double mean_difference(const FloatImage& a, const FloatImage& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.data.size(); i += 4)
        sum += std::abs(a.data[i] - b.data[i]);
    return sum / (static_cast<double>(a.data.size()) / 4);
}

/// Times that a pass of the deferred path asks a map.
double lookups(const Masked& m, const char* resolve, const char* pass) {
    RenderOptions o;
    o.count = true;
    std::uint64_t n = 0;
    for (const PassRecord& p : rendered(m.scene, shadowed(with_resolve("deferred", resolve)), m.view, o).passes)
        if (p.name == pass) n += p.work.at("shadowLookups");
    return static_cast<double>(n);
}

} // namespace

/// Shadows looked up into a mask of the screen before surfaces are shaded.
class shadow_mask_test : public QObject {
    Q_OBJECT
private slots:
    /// On every path the mask shows what looking up in shading shows, as far as 8 bits tell it: surfaces, panes before
    /// them, and objects that receive no shadow.
    void a_mask_shows_the_same_shadows() {
        Masked m;
        std::vector<ObjectEdit> edits, ordered;
        for (int o = 3; o < static_cast<int>(m.scene.asset->objects.size()); o += 5) {
            edits.push_back(edit_of({}, *m.scene.asset, o));
            edits.back().receives = false;
        }
        take_edits(ordered, edits);
        m.scene.placed = place_objects(*m.scene.asset, ordered);
        const FloatImage bare =
            hdr(m.scene, setup_with({{"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}}), m.view);
        for (const std::string& path : path_words([](const PathKind&) { return true; })) {
            const FloatImage wanted = hdr(m.scene, shadowed(with_resolve(path, "shading")), m.view),
                             got = hdr(m.scene, shadowed(with_resolve(path, "mask")), m.view);
            const int shaded = pixels_off(wanted, bare, 0.1f);
            QVERIFY2(shaded > 600, qPrintable(QString::number(shaded)));
            const int off = pixels_off(wanted, got, 0.03f);
            QVERIFY2(off < shaded / 20, qPrintable(QString("%1: %2").arg(path.c_str()).arg(off)));
        }
    }

    /// Of four pixels one is looked up and keeps its value; the rest is spread and never leaves what lies around.
    void a_half_mask_asks_a_quarter_and_stays_near() {
        const Masked m;
        for (const char* path : {"forward", "clustered-deferred"}) {
            const FloatImage wanted = hdr(m.scene, shadowed(with_resolve(path, "shading")), m.view),
                             whole = hdr(m.scene, shadowed(with_resolve(path, "mask")), m.view),
                             half = hdr(m.scene, shadowed(with_resolve(path, "half-mask")), m.view);
            int kept = 0, exact = 0;
            for (int y = 0; y < 117 / 2; ++y)
                for (int x = 0; x < 193 / 2; ++x) { // shader's rows go up, the picture's down
                    const int px = 2 * x + (y & 1), py = 116 - (2 * y + (x & 1));
                    const std::size_t at = (static_cast<std::size_t>(py) * 193 + static_cast<std::size_t>(px)) * 4;
                    ++kept;
                    exact += std::abs(half.data[at] - whole.data[at]) <=
                             1e-4f * std::max({half.data[at], whole.data[at], 0.02f});
                }
            // a neighbour that faces away asks for nothing; panes are looked up by themselves
            QVERIFY2(exact > 0.99 * kept, qPrintable(QString("%1 of %2").arg(exact).arg(kept)));
            const double near = mean_difference(wanted, half),
                         bare = mean_difference(wanted, hdr(m.scene,
                                                            setup_with({{"path.kind", path},
                                                                        {"path.maxLights", "64"},
                                                                        {"path.targetFormat", "rgba32f"}}),
                                                            m.view));
            QVERIFY2(near < 0.05 * bare && near > 0, qPrintable(QString("%1 of %2").arg(near).arg(bare)));
        }
        const double shading = lookups(m, "shading", "shading"), mask = lookups(m, "mask", "shadow mask"),
                     quarter = lookups(m, "half-mask", "shadow mask");
        QVERIFY2(std::abs(mask / shading - 1) < 0.01, qPrintable(QString::number(mask / shading))); // each pixel once
        QVERIFY2(quarter / shading > 0.24 && quarter / shading < 0.35, qPrintable(QString::number(quarter / shading)));
        QCOMPARE(lookups(m, "mask", "shading"), 0.0);
    }

    /// Lights get channels by importance, each one of its own; what cannot be masked is looked up in shading, with a
    /// word.
    void every_light_has_a_channel_or_a_reason() {
        const Masked m;
        const Setup setup = shadowed(with_resolve("forward", "mask"));
        const DrawList draws = build_draw_list(m.scene, setup, m.view);
        const ShadowSet set = shadow_set(m.scene, setup, m.view, draws);
        const FrameInputs in{m.scene, setup, m.view, draws};
        const MaskLayout layout = mask_layout(in, set);
        QCOMPARE(layout.lights.size(), set.lights.size());
        QVERIFY(layout.sets() == (static_cast<int>(set.lights.size()) + 3) / 4 && layout.sets() >= 2);
        QVERIFY(layout.columns * layout.rows >= layout.sets());
        double last = 1e300;
        std::set<int> channels;
        for (const int light : layout.lights) {
            QVERIFY(set.of(light)->importance <= last);
            last = set.of(light)->importance;
            channels.insert(layout.channel_of(light));
        }
        QCOMPARE(channels.size(), layout.lights.size());
        View both = m.view;
        both.stereo = Stereo::onePass;
        View huge = m.view;
        huge.width = 12000;
        for (const View& v : {both, huge}) {
            const FramePlan plan = plan_frame(m.scene, setup, v);
            QVERIFY(!plan.resource(shadow_mask_resource) && !plan.pass("shadow mask"));
            QVERIFY(std::any_of(plan.notes.begin(), plan.notes.end(), [](const std::string& n) {
                return n.find("looked up in shading") != std::string::npos;
            }));
        }
        both.stereo = Stereo::twoPasses;
        QVERIFY(plan_frame(m.scene, setup, both).pass("shadow mask"));
        const FloatImage two = hdr(m.scene, setup, both),
                         one = hdr(m.scene, shadowed(with_resolve("forward", "shading")), both);
        QVERIFY(pixels_off(one, two, 0.03f) < 193 * 117 / 100);
    }

    /// The account and the ledger tell of lights what the mask gave them.
    void account_and_ledger_follow_the_mask() {
        const Masked m;
        for (const char* resolve : {"mask", "half-mask"}) {
            const Setup setup = shadowed(with_resolve("forward", resolve));
            const DrawList list = build_draw_list(m.scene, setup, m.view);
            int shadows = 0;
            for (int i = 0; i < 14; ++i) {
                RenderOptions o;
                o.probe = glm::ivec2(10 + 12 * i, 30 + 5 * i);
                o.lightLists = true;
                const FrameRecord r = rendered(m.scene, setup, m.view, o);
                const PixelAccount a =
                    pixel_account(m.scene, setup, m.view, list, *r.probe, r.lightGrid, r.transparentGrid);
                QVERIFY2(a.difference < 0.01, qPrintable(QString("%1 %2: %3").arg(resolve).arg(i).arg(a.difference)));
                for (const SurfaceAccount& s : a.surfaces)
                    for (const LightTerm& t : s.lights)
                        for (const LightFactor& f : t.factors)
                            shadows += f.name == "shadow" && f.value.x < 1;
            }
            QVERIFY(shadows > 3);
            RenderOptions o;
            o.ledger = true;
            const FrameRecord r = rendered(m.scene, setup, m.view, o);
            std::uint64_t taps = 0;
            for (const LightShare& s : r.ledger)
                taps += s.shadowTaps;
            QVERIFY(taps > 1000);
        }
    }
};

MIROLUX_TEST(shadow_mask_test)
#include "shadow_mask_test.moc"
