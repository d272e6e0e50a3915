#include "core/account/ledger.h"
#include "core/account/pixel_account.h"
#include "core/shadow/shadow_maps.h"
#include "shadowed.h"

using namespace mirolux;
using namespace mirolux::test;

/// Shadow maps in a frame: the same on every path and for both eyes, in accounts and counters, kept from frame to
/// frame.
class shadow_frame_test : public QObject {
    Q_OBJECT
private slots:
    void every_path_shows_the_same_shadows() {
        int shaded = 0;
        for (const char* filter : {"hard", "pcss"})
            for (std::uint32_t seed = 1; seed <= 2; ++seed) {
                Scene scene = random_scene(seed, 14);
                for (Light& l : scene.lights)
                    l.sourceSize = l.type == LightType::directional ? 0.05f : 0.2f;
                std::vector<ObjectEdit> edits; // some receive none
                for (int o = 3; o < static_cast<int>(scene.asset->objects.size()); o += 5) {
                    edits.push_back(edit_of({}, *scene.asset, o));
                    edits.back().receives = false;
                }
                std::vector<ObjectEdit> ordered;
                take_edits(ordered, edits);
                scene.placed = place_objects(*scene.asset, ordered);
                const View view = view_from({seed * 2.0f - 6.0f, 3.5f, 11}, {0, 1, 0}, 193, 117);
                std::vector<std::pair<std::string, std::string>> values = {
                    {"shadow.filter", filter},   {"path.maxLights", "64"},    {"shadow.casters", "14"},
                    {"gbuffer.packing", "full"}, {"shadow.blended", "whole"}, {"cascade.distance", "40"}};
                const FloatImage wanted = hdr(scene, shadowed(values), view),
                                 bare = hdr(scene,
                                            setup_with({{"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}}),
                                            view);
                for (std::size_t i = 0; i < wanted.data.size(); i += 4)
                    shaded += wanted.data[i + 1] < 0.8f * bare.data[i + 1];
                for (const char* path : {"additive", "deferred", "volumes", "tiled-deferred", "tiled-forward",
                                         "clustered-deferred", "clustered-forward"}) {
                    auto own = values;
                    own.emplace_back("path.kind", path);
                    const FloatImage got = hdr(scene, shadowed(own), view);
                    int off =
                        0; // a surface taken back from depth falls on the other side of a texel's edge here and there
                    for (std::size_t i = 0; i < got.data.size(); i += 4)
                        for (std::size_t k = 0; k < 3; ++k)
                            if (std::abs(got.data[i + k] - wanted.data[i + k]) >
                                5e-3f * std::max({got.data[i + k], wanted.data[i + k], 0.02f})) {
                                ++off;
                                break;
                            }
                    QVERIFY2(off < 193 * 117 / 200,
                             qPrintable(QString("%1 %2 %3: %4").arg(filter).arg(path).arg(seed).arg(off)));
                }
            }
        QVERIFY2(shaded > 1000, qPrintable(QString::number(shaded)));
    }

    /// The account in double says what the picture shows, with each light's shadow as a factor; counters add up.
    void accounts_and_counters_hold_with_shadows() {
        const Scene scene = random_scene(5, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 160, 90);
        for (const char* path : {"forward", "clustered-deferred"}) {
            const Setup setup = shadowed({{"path.kind", path},
                                          {"path.maxLights", "64"},
                                          {"gbuffer.packing", "full"},
                                          {"shadow.filter", "disc"},
                                          {"shadow.update", "always"},
                                          {"cascade.distance", "40"}});
            const DrawList list = build_draw_list(scene, setup, view);
            int factors = 0;
            for (int i = 0; i < 12; ++i) {
                RenderOptions o;
                o.probe = glm::ivec2(8 + 12 * i, 20 + 5 * i);
                o.lightLists = true;
                const FrameRecord r = rendered(scene, setup, view, o);
                const PixelAccount a =
                    pixel_account(scene, setup, view, list, *r.probe, r.lightGrid, r.transparentGrid);
                QVERIFY2(a.difference < 0.01, qPrintable(QString("%1 %2: %3").arg(path).arg(i).arg(a.difference)));
                for (const SurfaceAccount& s : a.surfaces)
                    for (const LightTerm& t : s.lights)
                        for (const LightFactor& f : t.factors)
                            factors += f.name == "shadow" && f.value.x < 1;
            }
            QVERIFY(factors > 5);
            RenderOptions o;
            o.count = true;
            const FrameRecord r = rendered(scene, setup, view, o);
            const ShadowSet set = shadow_set(scene, setup, view, list);
            std::uint64_t triangles = 0, drawn = 0, lookups = 0, taps = 0;
            for (const ShadowMap& m : set.maps)
                triangles += m.triangles;
            for (const PassRecord& p : r.passes) {
                drawn += p.work.at("shadowTriangles");
                lookups += p.work.at("shadowLookups");
                taps += p.work.at("shadowTaps");
            }
            QCOMPARE(drawn, triangles);
            QVERIFY(lookups > 1000 && taps > 0 && taps <= 16 * lookups && taps > 12 * lookups);
        }
    }

    /// With nothing moving, `changed` draws nothing; after any move the picture is that of `always`, to the bit.
    void kept_maps_cost_nothing_and_change_no_bit() {
        Scene scene = random_scene(8, 10);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto setup = [&](const char* update) {
            return shadowed({{"shadow.update", update}, {"cascade.distance", "40"}});
        };
        const auto drawn = [&] {
            RenderOptions o;
            o.count = true;
            std::uint64_t draws = 0, triangles = 0;
            for (const PassRecord& p : rendered(scene, setup("changed"), view, o).passes)
                if (p.family == "shadows") {
                    draws += p.work.at("draws");
                    triangles += p.work.at("shadowTriangles") + p.work.at("shadowTexels");
                }
            return draws + triangles;
        };
        (void)hdr(scene, setup("changed"), view);
        QCOMPARE(drawn(), std::uint64_t(0));
        const auto as_always = [&](const char* what) {
            const FloatImage kept = hdr(scene, setup("changed"), view), fresh = hdr(scene, setup("always"), view);
            QVERIFY2(kept.data == fresh.data, what);
            (void)hdr(scene, setup("changed"), view);
        };
        as_always("as it was");
        for (Light& l : scene.lights)
            if (l.type != LightType::directional) l.position.x += 0.3f;
        as_always("lights moved");
        auto placed = std::make_shared<PlacedObjects>();
        placed->objects = scene.objects();
        placed->bounds = scene.bounds();
        placed->objects[20].transform[3].y += 0.7f;
        placed->objects[20].bounds.low.y += 0.7f;
        placed->objects[20].bounds.high.y += 0.7f;
        scene.placed = placed;
        as_always("an object moved");
        view.camera.eye.x -= 3;
        as_always("the camera moved");
        scene.lights.erase(scene.lights.begin() + 2);
        as_always("a light is gone");
        (void)hdr(scene, setup("changed"), view);
        QCOMPARE(drawn(), std::uint64_t(0));
    }

    /// With still casters apart, a map in which something moves draws no more than that: to the bit the same picture.
    void what_stands_still_is_drawn_once() {
        Scene scene = random_scene(8, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto setup = [](const char* still) {
            return shadowed({{"shadow.update", "changed"}, {"shadow.still", still}, {"cascade.distance", "40"}});
        };
        (void)hdr(scene, setup("on"), view);
        const int moving = 20;
        const auto own = static_cast<std::uint64_t>(
            scene.asset->primitives[static_cast<std::size_t>(scene.objects()[moving].primitive)].indices.size() / 3);
        std::vector<std::uint64_t> triangles;
        for (int frame = 0; frame < 5; ++frame) {
            auto placed = std::make_shared<PlacedObjects>();
            placed->objects = scene.objects();
            placed->bounds = scene.bounds();
            Object& o = placed->objects[moving];
            o.transform[3].y += 0.2f;
            o.bounds.low.y += 0.2f;
            o.bounds.high.y += 0.2f;
            scene.placed = placed;
            std::uint64_t drawn = 0, copied = 0;
            for (const PassRecord& p : rendered(scene, setup("on"), view, {}).passes) {
                drawn += p.work.at("shadowTriangles");
                copied += p.work.at("shadowCopied");
            }
            triangles.push_back(drawn);
            QVERIFY(copied > 0);
            const FloatImage apart = hdr(scene, setup("on"), view), whole = hdr(scene, setup("off"), view);
            QVERIFY2(apart.data == whole.data, qPrintable(QString::number(frame)));
            (void)hdr(scene, setup("on"), view);
        }
        const ShadowSet set = shadow_set(scene, setup("on"), view, build_draw_list(scene, setup("on"), view));
        std::uint64_t maps = 0;
        for (const ShadowMap& m : set.maps)
            maps += static_cast<std::uint64_t>(std::count(m.casters.begin(), m.casters.end(), moving));
        QVERIFY(maps > 1 && triangles.front() > 2 * maps * own);
        for (std::size_t i = 1; i < triangles.size(); ++i)
            QCOMPARE(triangles[i], maps * own);
    }

    /// In turn: a frame draws so many maps, what waits is looked up as it was drawn, and the same sequence gives the
    /// same picture.
    void maps_are_drawn_in_turn() {
        Scene scene = random_scene(8, 10);
        scene.motions = {{scene.lights[1].id, MotionKind::shuttle, 2, 0, 0, {3, 0, 0}, 0.5f}};
        View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        view.seconds = 1.3;
        const Setup setup = shadowed({{"shadow.update", "in-turn"}, {"shadow.turn", "3"}, {"cascade.distance", "40"}});
        RenderOptions o;
        o.frames = 7;
        o.floatLayers = {"final"};
        o.count = true;
        const FrameRecord a = rendered(scene, setup, view, o), b = rendered(scene, setup, view, o);
        QVERIFY(a.floats.at("final").data == b.floats.at("final").data);
        const ShadowSet set = shadow_set(scene, setup, view, build_draw_list(scene, setup, view));
        std::uint64_t planned = 0, counted = 0;
        for (const ShadowMap& m : set.maps)
            planned += m.triangles;
        for (const PassRecord& p : a.passes)
            counted += p.work.at("shadowTriangles");
        QVERIFY(counted > 0 && counted < planned);
        const std::vector<double> ages = a.told.at("shadowAges");
        QCOMPARE(ages.size(), set.maps.size());
        QCOMPARE(std::count(ages.begin(), ages.end(), 0.0), 3); // drawn in this frame
        const double oldest = *std::max_element(ages.begin(), ages.end());
        QVERIFY(oldest >= 1 &&
                oldest <= std::ceil(static_cast<double>(ages.size()) / 3)); // none waits longer than a round
        // Standing still, it comes to the picture of `always`.
        scene.motions.clear();
        const FloatImage still = hdr(scene, setup, view),
                         fresh = hdr(scene, shadowed({{"shadow.update", "always"}, {"cascade.distance", "40"}}), view);
        QVERIFY(still.data == fresh.data);
    }

    /// Both eyes look into one set of maps.
    void both_eyes_share_the_maps() {
        const Scene scene = random_scene(6, 8);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto both = [&](Stereo stereo) {
            view.stereo = stereo;
            RenderOptions o;
            o.fencedSamples = 0;
            o.bothEyes = true;
            auto r = session().render(scene, shadowed({{"cascade.distance", "40"}}), view, o);
            if (!r) qFatal("%s", to_text(r.error()).c_str());
            return std::move(r->picture);
        };
        const ByteImage two = both(Stereo::twoPasses), one = both(Stereo::onePass);
        QCOMPARE(two.width, 192);
        int off = 0;
        for (std::size_t i = 0; i < two.rgba.size(); ++i)
            off += std::abs(int(two.rgba[i]) - int(one.rgba[i])) > 2;
        QVERIFY2(off < 200, qPrintable(QString::number(off)));
        const FramePlan plan = plan_frame(scene, shadowed({}), view);
        QCOMPARE(plan.resource("shadow atlas")->layers, 1);
    }

    /// Contact shadows of two passes are those of one eye each; one pass over both leaves them out, with a note. The
    /// mask as well.
    void contact_shadows_know_both_eyes() {
        const Scene scene = random_scene(6, 8);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        view.stereo = Stereo::twoPasses;
        for (const char* extra : {"shadow.contact", "shadow.resolve"}) {
            const bool mask = std::string(extra) == "shadow.resolve";
            const Setup setup = shadowed({{"cascade.distance", "40"}, {extra, mask ? "mask" : "on"}});
            RenderOptions o;
            o.fencedSamples = 0;
            o.bothEyes = true;
            auto both = session().render(scene, setup, view, o);
            if (!both) qFatal("%s", to_text(both.error()).c_str());
            const std::vector<View> eyes = eye_views(view);
            for (int e = 0; e < 2; ++e) {
                View one = eyes[static_cast<std::size_t>(e)];
                one.stereo = Stereo::off;
                RenderOptions single;
                single.fencedSamples = 0;
                auto alone = session().render(scene, setup, one, single);
                if (!alone) qFatal("%s", to_text(alone.error()).c_str());
                int off = 0;
                for (int y = 0; y < 54; ++y)
                    for (int x = 0; x < 4 * 96; ++x)
                        off += std::abs(int(both->picture.rgba[static_cast<std::size_t>((y * 2 + e) * 4 * 96 + x)]) -
                                        int(alone->picture.rgba[static_cast<std::size_t>(y * 4 * 96 + x)])) > 3;
                // Slices follow the view that has both eyes between them: a few pixels at their edges differ.
                QVERIFY2(off < 96 * 54 * 3 / 25, qPrintable(QString("%1, eye %2: %3").arg(extra).arg(e).arg(off)));
            }
            View onePass = view;
            onePass.stereo = Stereo::onePass;
            QVERIFY(!plan_frame(scene, setup, onePass).notes.empty());
            QVERIFY(plan_frame(scene, setup, view).notes.empty());
        }
    }

    /// A smaller picture that stands for a whole one has its maps, and draws none of them again.
    void a_quick_picture_has_the_maps_of_the_whole() {
        const Scene scene = random_scene(8, 10);
        const View whole = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
        View quick = whole;
        quick.width = 101; // other proportions
        quick.height = 55;
        quick.wholeWidth = 320;
        quick.wholeHeight = 180;
        const Setup setup = shadowed({{"shadow.update", "changed"}, {"cascade.distance", "40"}});
        const ShadowSet a = shadow_set(scene, setup, whole, build_draw_list(scene, setup, whole)),
                        b = shadow_set(scene, setup, quick, build_draw_list(scene, setup, quick));
        QCOMPARE(a.maps.size(), b.maps.size());
        for (std::size_t i = 0; i < a.maps.size(); ++i)
            QVERIFY(a.maps[i].toMap == b.maps[i].toMap && a.maps[i].size == b.maps[i].size &&
                    a.maps[i].casters == b.maps[i].casters);
        (void)hdr(scene, setup, whole);
        std::uint64_t drawn = 0;
        for (const PassRecord& p : rendered(scene, setup, quick, {}).passes)
            if (p.family == "shadows") drawn += p.work.at("draws");
        QCOMPARE(drawn, std::uint64_t(0));
        View other = quick; // not said to stand for the whole: its own slices
        other.wholeWidth = other.wholeHeight = 0;
        const ShadowSet c = shadow_set(scene, setup, other, build_draw_list(scene, setup, other));
        QVERIFY(c.maps.front().toMap != a.maps.front().toMap);
    }

    /// Too much asked: maps are halved until they fit, the rest go without, by name; the frame goes on.
    /// A light inside a solid, one that stands in the eye, lights without reach, maps as small as they get, a picture
    /// of one pixel: each gives a picture, and none of it is not a number.
    /// The ledger tells each light's own taps, which sum to those that are counted, and what its maps take to draw.
    void the_ledger_tells_each_lights_maps() {
        const Scene scene = random_scene(5, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 160, 90);
        for (const auto& [path, filter] :
             {std::pair("additive", "bilinear"), {"tiled-deferred", "pcss"}, {"forward", "moments"}}) {
            const Setup setup = shadowed({{"path.kind", path}, {"shadow.filter", filter}, {"shadow.casters", "5"}});
            RenderOptions o;
            o.ledger = o.count = true;
            o.floatLayers = {"final"};
            const FrameRecord r = rendered(scene, setup, view, o);
            std::uint64_t counted = 0, told = 0;
            for (const PassRecord& p : r.passes)
                counted += p.work.at("shadowTaps");
            const DrawList draws = build_draw_list(scene, setup, view);
            const ShadowSet set = shadow_set(scene, setup, view, draws);
            for (std::size_t i = 0; i < r.ledger.size(); ++i) {
                told += r.ledger[i].shadowTaps;
                const bool mapped = set.of(static_cast<int>(i)) != nullptr;
                QCOMPARE(r.ledger[i].shadowMs > 0, mapped);
                QVERIFY(mapped || r.ledger[i].shadowTaps == 0);
            }
            QVERIFY(counted > 1000);
            QCOMPARE(told, counted);
            const Ledger l = make_ledger(scene, r);
            QVERIFY(std::any_of(l.rows.begin(), l.rows.end(), [](const LedgerRow& row) { return row.shadowMs > 0; }));
        }
    }

    void odd_lights_and_views_give_pictures() {
        Scene scene = random_scene(3, 10);
        const Box box = scene.objects()[7].bounds;
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        scene.lights[1].position = box.center(); // within a caster
        scene.lights[2].position = view.camera.eye;
        scene.lights[3].intensity = 0;
        scene.lights[4].range = 1e-3f;
        if (scene.lights[5].type == LightType::spot) scene.lights[5].outerConeAngle = 1e-3f;
        for (const char* filter : {"pcss", "variance", "moments"})
            for (const auto& [width, height] : {std::pair(96, 54), {1, 1}, {1, 200}}) {
                View v = view;
                v.width = width;
                v.height = height;
                const FloatImage image = hdr(scene,
                                             shadowed({{"shadow.filter", filter},
                                                       {"shadow.casters", "10"},
                                                       {"shadow.resolution", "16"},
                                                       {"cascade.resolution", "16"},
                                                       {"shadow.near", "0.001"}}),
                                             v);
                QCOMPARE(image.width, width);
                for (const float value : image.data)
                    QVERIFY2(std::isfinite(value), filter);
            }
    }

    /// The same picture, whether blurred maps are kept or made anew; a still view blurs nothing.
    void blurred_maps_are_kept() {
        Scene scene = random_scene(6, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 160, 90);
        for (const char* filter : {"variance", "exponential", "moments"}) {
            const auto with = [&](const char* update, const char* blur) {
                return shadowed({{"shadow.filter", filter}, {"shadow.update", update}, {"shadow.blur", blur}});
            };
            RenderOptions counting;
            counting.count = true;
            const auto blurs = [&](const Setup& s) {
                const FrameRecord r = rendered(scene, s, view, counting);
                std::uint64_t sum = 0;
                for (const PassRecord& p : r.passes)
                    sum += p.work.at("shadowBlurs");
                return sum;
            };
            const FloatImage first = hdr(scene, with("changed", "2"), view);
            QCOMPARE(blurs(with("changed", "2")), std::uint64_t(0));
            QVERIFY(blurs(with("always", "2")) > 100000);
            QVERIFY(hdr(scene, with("always", "2"), view).data == first.data);
            QVERIFY(hdr(scene, with("changed", "2"), view).data == first.data);
            QVERIFY(hdr(scene, with("changed", "6"), view).data != first.data); // blurred again, not drawn again
            QVERIFY(hdr(scene, with("changed", "2"), view).data == first.data);
            scene.lights[1].position.x += 0.4f;
            const FloatImage moved = hdr(scene, with("changed", "2"), view);
            QVERIFY(moved.data == hdr(scene, with("always", "2"), view).data);
            scene.lights[1].position.x -= 0.4f;
        }
    }

    void what_does_not_fit_goes_without_and_is_named() {
        const Scene scene = random_scene(9, 60);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const Setup setup = shadowed({{"shadow.casters", "64"}, {"shadow.resolution", "4096"}, {"shadow.budget", "1"}});
        const FramePlan plan = plan_frame(scene, setup, view);
        QVERIFY(plan.resource("shadow atlas")->bytes <= 1 << 20);
        QVERIFY2(!plan.notes.empty() && plan.notes[0].find("shadow.budget") != std::string::npos,
                 plan.notes.empty() ? "none" : plan.notes[0].c_str());
        QVERIFY(hdr(scene, setup, view).data.size() == std::size_t(96 * 54 * 4));
        const Setup none = shadowed({{"shadow.casters", "0"}});
        QCOMPARE(plan_frame(scene, none, view).passes.size(), plan_frame(scene, setup_with({}), view).passes.size());
        const auto bits = [&](const Setup& s) { return hdr(scene, s, view).data; };
        QVERIFY(bits(none) == bits(setup_with({{"path.targetFormat", "rgba32f"}})));
    }
};

MIROLUX_TEST(shadow_frame_test)
#include "shadow_frame_test.moc"
