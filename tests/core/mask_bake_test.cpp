#include "core/bake/mask_bake.h"
#include "core/io/file.h"
#include "core/scene/project.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_mask_bake {

std::unique_ptr<MaskBake> masks_of(const Scene& scene, const MaskOptions& options) {
    auto bake = MaskBake::begin(scene, lambert(), options);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    if (auto ok = (*bake)->keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return std::move(*bake);
}

int value_of(const BakedMasks& masks, int light, std::size_t texel) {
    const int channel = masks.channel_of(light);
    return masks.sheets[std::size_t(channel / 4)].rgba[4 * texel + std::size_t(channel % 4)];
}

/// Two rooms under lamps of their own.
struct LitRooms {
    QTemporaryDir folder;
    TwoRooms rooms;
    explicit LitRooms(bool opening = true) : rooms(0, opening) {
        Light first = lamp({2, 2.5f, 2}, 200), second = lamp({6, 2.5f, 1}, 150);
        first.range = 3.3f;
        second.id = 2;
        second.range = 3.3f;
        rooms.scene.lights = {first, second};
        rooms.scene.bakes = folder.path().toStdString();
    }
};

} // namespace mirolux::test_mask_bake
using namespace mirolux::test_mask_bake;

/// Shadows that are computed beforehand, as masks.
class mask_bake_test : public QObject {
    Q_OBJECT
private slots:
    /// Every texel of a lamp without size against segments through the boxes that the rooms are made of: all four
    /// corners of the texel lit, or all dark, and the mask is all or nothing; else something between.
    void texels_are_lit_where_segments_reach_the_lamp() {
        const LitRooms r;
        const auto bake = masks_of(r.rooms.scene, {6, 16});
        int lit = 0, dark = 0, edges = 0, wrong = 0;
        for (const MapPoint& t : bake->targets()) {
            const glm::vec3 from = t.point.position + 2e-3f * t.point.side;
            bool inside = false;
            for (const Box& b : r.rooms.solids)
                inside = inside || (from.x > b.low.x && from.x < b.high.x && from.y > b.low.y && from.y < b.high.y &&
                                    from.z > b.low.z && from.z < b.high.z);
            if (inside) continue; // within the next thing: it takes what lies beside it
            for (const Light& l : r.rooms.scene.lights) {
                const glm::vec3 to = l.position - t.point.position;
                // Around the lamp nothing counts that stands there; grazing light is left to rounding.
                if (glm::length(to) > l.range - 0.05f || glm::dot(to, t.point.normal) < 0.05f) continue;
                int seen = 0, asked = 0;
                for (const float u : {-0.5f, 0.0f, 0.5f})
                    for (const float v : {-0.5f, 0.0f, 0.5f}) {
                        const glm::vec3 at = from + u * t.across + v * t.down;
                        bool within = false;
                        for (const Box& b : r.rooms.solids)
                            within = within || (at.x > b.low.x && at.x < b.high.x && at.y > b.low.y &&
                                                at.y < b.high.y && at.z > b.low.z && at.z < b.high.z);
                        if (within) continue;
                        ++asked;
                        seen += sees_past(r.rooms.solids, at, l.position, -1);
                    }
                const int mask = value_of(bake->masks(), l.id, t.texel);
                if (seen == asked) {
                    ++lit;
                    wrong += mask != 255;
                } else if (seen == 0) {
                    ++dark;
                    wrong += mask != 0;
                } else
                    ++edges;
            }
        }
        qInfo("%d texels lit, %d dark, %d on edges; %d otherwise", lit, dark, edges, wrong);
        QVERIFY(lit > 2000 && dark > 150 && edges > 30);
        QVERIFY(wrong <= (lit + dark) / 400); // slivers at borders
    }

    /// The penumbra of a ball above half a plane: share of the disc that stands above the edge.
    void a_source_with_size_is_seen_in_part() {
        const QTemporaryDir folder;
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
        add_solid(a, "floor", {{-8, -0.2f, -4}, {8, 0, 4}});
        add_solid(a, "screen", {{-8, 1.99f, -4}, {0, 2, 4}}); // a roof over x < 0, its edge at x = 0
        Scene scene;
        scene.asset = finished(std::move(a));
        Light l = lamp({0, 6, 0}, 500);
        l.sourceSize = 0.8f;
        scene.lights = {l};
        scene.bakes = folder.path().toStdString();
        const auto bake = masks_of(scene, {8, 256});
        double off = 0;
        int places = 0;
        for (const MapPoint& t : bake->targets()) {
            const glm::vec3& p = t.point.position;
            if (p.y < -0.01f || t.point.side.y < 0.9f || p.y > 0.01f || std::abs(p.z) > 0.5f || std::abs(p.x) > 1)
                continue;
            // The edge as it is seen from the floor cuts the source where x is -p.x * (6 - 2) / 2.
            double wanted = 0;
            for (int i = 0; i < 64; ++i) { // over the texel's width
                const double x = double(p.x) + (double(i) + 0.5) / 64 * 0.125 - 0.0625,
                             cut = std::clamp(-x * 2 / 0.4, -1.0, 1.0); // in radii of the source
                wanted += (std::acos(cut) - cut * std::sqrt(1 - cut * cut)) / M_PI / 64;
            }
            off += std::abs(value_of(bake->masks(), l.id, t.texel) / 255.0 - wanted);
            ++places;
        }
        qInfo("penumbra: %d texels, off by %.2f %% on the mean", places, 100 * off / places);
        QVERIFY(places > 60);
        QVERIFY(off / places < 0.02);
    }

    /// Lamps that light a texel in common have channels of their own; those that never meet share one.
    void lamps_that_meet_have_channels_of_their_own() {
        const LitRooms r(false);
        Scene scene = r.rooms.scene;
        scene.lights.clear();
        for (int i = 0; i < 12; ++i) { // six on each side of the wall, a few metres wide at most
            Light l = lamp(
                {i < 6 ? 0.6f + 0.5f * static_cast<float>(i) : 4.8f + 0.5f * static_cast<float>(i - 6), 2.6f, 2}, 80);
            l.id = i + 1;
            l.range = 1.0f;
            scene.lights.push_back(l);
        }
        const auto bake = masks_of(scene, {4, 4});
        const BakedMasks& m = bake->masks();
        std::set<int> used;
        for (const Light& a : scene.lights) {
            QVERIFY(m.channel_of(a.id) >= 0);
            used.insert(m.channel_of(a.id));
            for (const Light& b : scene.lights) {
                if (a.id == b.id) continue;
                bool meet = false;
                for (const MapPoint& t : bake->targets()) {
                    const auto lights = [&](const Light& l) {
                        const glm::vec3 to = l.position - t.point.position;
                        return glm::length(to) < l.range && glm::dot(to, t.point.normal) > 0;
                    };
                    meet = meet || (lights(a) && lights(b));
                }
                if (meet) QVERIFY(m.channel_of(a.id) != m.channel_of(b.id));
            }
        }
        qInfo("12 lamps in %zu channels, %zu sheets", used.size(), m.sheets.size());
        QVERIFY(used.size() < 10);
        QCOMPARE(m.sheets.size(), (std::size_t(*used.rbegin()) + 4) / 4);
    }

    void a_stopped_bake_goes_on_to_the_same_bits() {
        LitRooms r;
        const QTemporaryDir other;
        const MaskOptions options{3, 16};
        std::size_t done = 0;
        int runs = 0;
        for (bool over = false; !over; ++runs) {
            auto bake = MaskBake::begin(r.rooms.scene, lambert(), options);
            QVERIFY(bake.has_value());
            QCOMPARE((*bake)->progress().done, done);
            std::atomic<bool> stop{false};
            over = (*bake)->work(1e-3, &stop);
            done = (*bake)->progress().done;
            QVERIFY((*bake)->keep().has_value());
        }
        QVERIFY(runs > 2);
        const auto parts =
            read_masks(masks_index(r.rooms.scene.bakes, masks_digest(r.rooms.scene, lambert(), options)));
        QVERIFY(parts.has_value());
        Scene elsewhere = r.rooms.scene;
        elsewhere.bakes = other.path().toStdString();
        masks_of(elsewhere, options);
        const auto whole = read_masks(masks_index(elsewhere.bakes, masks_digest(elsewhere, lambert(), options)));
        QVERIFY(whole.has_value());
        QVERIFY(whole->sheets == parts->sheets);
    }

    /// A lamp may be dimmed; one that moved, or a thing that did, makes masks stale. A damaged sheet is set aside.
    void what_masks_depend_on() {
        LitRooms r;
        Setup setup = lambert();
        QVERIFY(setup.set_text("shadow.baked", "on").has_value());
        QVERIFY(setup.set_text("lightmap.density", "2").has_value());
        std::string remark;
        QVERIFY(!baked_masks_of(r.rooms.scene, setup, 0, &remark));
        QVERIFY(QString::fromStdString(remark).contains("No masks were baked"));
        masks_of(r.rooms.scene, mask_options(setup));
        QVERIFY(baked_masks_of(r.rooms.scene, setup, 0, &remark));
        QVERIFY2(remark.empty(), remark.c_str());
        Scene dimmed = r.rooms.scene;
        dimmed.lights[0].intensity = 20;
        dimmed.lights[0].color = {1, 0, 0};
        QVERIFY(baked_masks_of(dimmed, setup, 0));
        Scene moved = r.rooms.scene;
        moved.lights[0].position.x += 0.1f;
        QVERIFY(!baked_masks_of(moved, setup, 0, &remark));
        QVERIFY(QString::fromStdString(remark).contains("stale"));
        QVERIFY(!baked_masks_of(r.rooms.scene, setup, 4, &remark)); // a light map of 4 texels a metre wants its own
        QVERIFY(QString::fromStdString(remark).contains("4 texels a metre"));

        const auto index = masks_index(r.rooms.scene.bakes, masks_digest(r.rooms.scene, setup, mask_options(setup)));
        const auto sheet = masks_sheet(index, 0);
        const auto bytes = *read_file(sheet);
        QVERIFY(write_file_atomically(sheet, bytes.data(), bytes.size() / 2).has_value());
        QVERIFY(!read_masks(index).has_value());
        auto bake = MaskBake::begin(r.rooms.scene, setup, mask_options(setup));
        QVERIFY(bake.has_value());
        QVERIFY((*bake)->remark().find("set aside") != std::string::npos);
        QCOMPARE((*bake)->progress().done, std::size_t(0));
        QVERIFY(std::filesystem::exists(sheet.string() + ".damaged"));
        Scene dark = r.rooms.scene;
        dark.lights.clear();
        QVERIFY(!MaskBake::begin(dark, setup, {}).has_value());
    }
};

MIROLUX_TEST(mask_bake_test)
#include "mask_bake_test.moc"
