#include "core/finish/edge_quality.h"
#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/light/tone.h"
#include "flat_session.h"

using namespace mirolux;
using namespace mirolux::test;

using Values = std::vector<std::pair<std::string, std::string>>;

class edges_test : public QObject {
    Q_OBJECT

    /// Stripes of light that slant before the dark, unlit.
    static Scene stripes() {
        SceneAsset a;
        a.materials.push_back(plain_material({0, 0, 0}, 0, 1));
        a.materials[0].emissive = {3, 2.5f, 2};
        for (int i = 0; i < 6; ++i) {
            const float x = -2.6f + 0.9f * static_cast<float>(i), turn = 0.05f + 0.11f * static_cast<float>(i);
            const glm::vec3 along(-3 * std::sin(turn), 3 * std::cos(turn), 0),
                across(0.4f * std::cos(turn), 0.4f * std::sin(turn), 0);
            add_quad(a, 0, {x, -1.5f, 0}, across, along);
        }
        Scene s;
        s.asset = finished(std::move(a));
        s.sky = {{0, 0, 0}, {0, 0, 0}};
        return s;
    }
    static View before_stripes(int width = 160, int height = 90) {
        return view_from({0, 0, 4}, {0, 0, 0}, width, height);
    }
    static Setup with(Values values, const Values& more = {}) {
        values.insert(values.end(), more.begin(), more.end());
        values.insert(values.end(), {{"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
        return setup_with(values);
    }
    static FrameRecord settled(const Scene& scene, const Setup& setup, const View& view, int frames = 0) {
        RenderOptions o;
        o.floatLayers = {"final"};
        o.frames = frames;
        return answer_to(scene, setup, view, o);
    }
    static double mean_codes(const ByteImage& a, const ByteImage& b) {
        double sum = 0;
        for (std::size_t i = 0; i < a.rgba.size(); ++i)
            sum += std::abs(int(a.rgba[i]) - int(b.rgba[i]));
        return sum / (0.75 * double(a.rgba.size()));
    }
    /// A picture against the mean of 256 samples a pixel.
    static EdgeErrors errors_of(const Scene& scene, const Setup& setup, const View& view) {
        const auto quality = edge_quality(session(), {scene, setup, view, {{"it", setup}}, 0, 0, 16});
        if (!quality) qFatal("%s", to_text(quality.error()).c_str());
        return quality->ways.front().still;
    }
    static double largest(const FloatImage& a, const FloatImage& b) { return largest_relative_difference(a, b, 1e-3); }

private slots:
    /// Another size of rendering, brought to the shown one, is the reference's picture of that rendering.
    void scaling_is_the_reference_s() {
        const Scene scene = random_scene(3, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const Values& v :
             std::vector<Values>{{{"output.scaleX", "0.5"}, {"output.scaleY", "0.5"}},
                                 {{"output.scaleX", "0.5"}, {"output.filter", "nearest"}},
                                 {{"output.scaleX", "2"}, {"output.scaleY", "0.5"}},
                                 {{"output.scaleX", "1.7"}, {"output.scaleY", "1.3"}},
                                 {{"output.scaleX", "0.3"}, {"output.scaleY", "0.3"}, {"output.whole", "on"}}}) {
            const Setup s = with(v), plain = with({});
            const FrameRecord r = settled(scene, s, view);
            QCOMPARE(r.picture.width, 96);
            QCOMPARE(r.picture.height, 54);
            View alone = rendered_view(s, view);
            alone.wholeWidth = std::exchange(alone.shownWidth, 0);
            alone.wholeHeight = std::exchange(alone.shownHeight, 0);
            const FloatImage rendered = hdr(scene, plain, alone);
            const FloatImage wanted = resized(rendered, 96, 54, s.choice("output.filter") == "smooth", whole_pixels(s));
            QVERIFY2(largest(r.floats.at("final"), wanted) < 1e-4, v.front().second.c_str());
        }
    }

    void supersampling_is_the_mean_of_its_samples() {
        const Scene scene = stripes();
        const View view = before_stripes();
        for (const char* way : {"before", "after"}) {
            const Setup s = with({{"edges.kind", "supersample"}, {"edges.resolve", way}});
            View twice = view;
            twice.width *= 2;
            twice.height *= 2;
            FloatImage wanted = hdr(scene, with({}), twice);
            const double scale = std::string(way) == "after" ? sample_bend(s) * tone::exposure_scale(hand_ev100(s)) : 0;
            const auto change = [&](FloatImage& image, auto map) {
                for (std::size_t i = 0; i + 3 < image.data.size(); i += 4) {
                    const glm::dvec3 v = map({image.data[i], image.data[i + 1], image.data[i + 2]}, scale);
                    for (int c = 0; c < 3; ++c)
                        image.data[i + std::size_t(c)] = static_cast<float>(v[c]);
                }
            };
            change(wanted, mapped_sample);
            wanted = resized(wanted, view.width, view.height, true);
            change(wanted, unmapped_sample);
            QVERIFY(largest(settled(scene, s, view).floats.at("final"), wanted) < 1e-4);
        }
    }

    /// Samples of coverage: on edges each pixel is a quarter's multiple, and nearer to the truth than without; the
    /// forward paths have the same picture.
    void multisampling_covers_by_quarters() {
        const Scene scene = stripes();
        const View view = before_stripes();
        const Setup none = with({}), four = with({{"edges.kind", "multisample"}, {"edges.resolve", "before"}});
        const FloatImage image = settled(scene, four, view).floats.at("final");
        float whole = 0;
        for (std::size_t i = 0; i < image.data.size(); i += 4)
            whole = std::max(whole, image.data[i]);
        QVERIFY(whole > 2.9f);
        int partly = 0;
        for (std::size_t i = 0; i < image.data.size(); i += 4) {
            const double share = image.data[i] / whole * 4;
            QVERIFY(std::abs(share - std::round(share)) < 1e-4);
            partly += share > 0.5 && share < 3.5;
        }
        QVERIFY(partly > 200);
        const EdgeErrors own = errors_of(scene, none, view),
                         left = errors_of(scene, with({{"edges.kind", "multisample"}}), view);
        QVERIFY2(left.mean < 0.45 * own.mean, qPrintable(QString("%1 of %2").arg(left.mean).arg(own.mean)));
        const Scene lit = random_scene(6, 20);
        const View there = view_from({8, 4, 12}, {0, 1, 0}, 128, 72);
        const Values all = {{"edges.kind", "multisample"}, {"edges.resolve", "before"}, {"path.maxLights", "64"}};
        const FloatImage first = settled(lit, with(all, {{"path.kind", "forward"}}), there).floats.at("final");
        for (const char* path : {"additive", "tiled-forward", "clustered-forward"}) {
            const FloatImage other = settled(lit, with(all, {{"path.kind", path}}), there).floats.at("final");
            QVERIFY2(largest_relative_difference(first, other, 0.05) < 2e-3, path);
        }
    }

    /// Where a path cannot have it the picture is as without, and the plan says why; a device that has not so many says
    /// which it has.
    void what_cannot_be_multisampled_is_said() {
        const Scene scene = random_scene(6, 8);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const Values& v : std::vector<Values>{
                 {{"path.kind", "deferred"}}, {{"path.kind", "tiled-deferred"}}, {{"occlusion.kind", "horizon"}}}) {
            const Setup off = with(v), on = with(v, {{"edges.kind", "multisample"}});
            const FramePlan plan = plan_frame(scene, on, view);
            QVERIFY(plan.radiance == "scene");
            QVERIFY(std::any_of(plan.notes.begin(), plan.notes.end(),
                                [](const std::string& n) { return n.starts_with("Multisampling is left out"); }));
            QVERIFY(settled(scene, on, view).picture == settled(scene, off, view).picture);
        }
        RenderOptions o;
        o.fencedSamples = 0;
        const auto most =
            session().render(scene, with({{"edges.kind", "multisample"}, {"edges.samples", "16"}}), view, o);
        if (!most) {
            QVERIFY(most.error().what.find("16 samples") != std::string::npos);
            QVERIFY(most.error().where == "edges.samples");
            QVERIFY(most.error().remedy.find("4") != std::string::npos);
        }
        QVERIFY(!settled(scene, with({}), view).picture.empty());
    }

    /// What looks at the frame beside its passes sees one sample: targets, layers, thumbnails, a pixel's account.
    void several_samples_are_looked_at() {
        const Scene scene = random_scene(6, 8);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const Setup none = with({}), four = with({{"edges.kind", "multisample"}});
        RenderOptions o;
        o.floatLayers = {"depth", "diffuse"};
        o.targets = {{.target = "scene"}, {.target = "depth"}};
        o.thumbnails = {"final", "depth", "normal"};
        o.writes = true;
        const FrameRecord a = answer_to(scene, none, view, o), b = answer_to(scene, four, view, o);
        QVERIFY(a.floats.at("diffuse").data == b.floats.at("diffuse").data);
        int same = 0;
        const FloatImage &da = a.floats.at("depth"), &db = b.floats.at("depth");
        for (std::size_t i = 0; i < da.data.size(); ++i)
            same += std::abs(da.data[i] - db.data[i]) < 0.05f * std::max(0.1f, da.data[i]);
        QVERIFY(same > 0.9 * double(da.data.size()));
        QVERIFY(b.targets.size() == 2 && b.thumbnails.size() == 3 && b.writes.size() > a.writes.size());
        const PixelAccount p = account_at(scene, none, view, {48, 40}), q = account_at(scene, four, view, {48, 40});
        QCOMPARE(p.surfaces.size(), q.surfaces.size());
        QCOMPARE(p.surfaces.front().object, q.surfaces.front().object);
        QVERIFY(q.difference < 0.02);
    }

    /// Pixels of the shown picture find their surfaces at any scale.
    void pixels_are_found_at_a_scale() {
        const Scene scene = random_scene(6, 8);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const PixelAccount whole = account_at(scene, with({}), view, {48, 40});
        for (const char* scale : {"0.5", "2"}) {
            const PixelAccount p =
                account_at(scene, with({{"output.scaleX", scale}, {"output.scaleY", scale}}), view, {48, 40});
            QCOMPARE(p.surfaces.front().object, whole.surfaces.front().object);
            QVERIFY(p.difference < 0.01);
        }
    }

    void filter_is_the_reference_s() {
        const Scene scene = stripes();
        const View view = before_stripes();
        const Setup s = with({{"edges.kind", "filter"}});
        RenderOptions o;
        o.targets = {{.target = coded_resource}};
        const FrameRecord r = answer_to(scene, s, view, o);
        const FloatImage wanted =
            edges_filtered(r.targets.front(), s.number("edges.threshold"), s.whole("edges.reach"));
        int off = 0, changed = 0;
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const double sent = r.picture.rgba[std::size_t(4) * std::size_t(y * view.width + x)];
                off += std::abs(sent - 255 * wanted.pixel(x, y)[0]) > 1;
                changed += std::abs(wanted.pixel(x, y)[0] - r.targets.front().pixel(x, y)[0]) > 0.05f;
            }
        QVERIFY(changed > 300);
        QVERIFY2(off <= 0.002 * view.width * view.height, qPrintable(QString::number(off)));
        const EdgeErrors own = errors_of(scene, with({}), view), left = errors_of(scene, s, view);
        QVERIFY2(left.mean < 0.6 * own.mean, qPrintable(QString("%1 of %2").arg(left.mean).arg(own.mean)));
    }

    /// A still scene settles at the supersampled picture, and its edges at the truth.
    void temporal_settles_at_the_supersampled_picture() {
        for (const auto& [scene, view] : {std::pair(stripes(), before_stripes()),
                                          std::pair(random_scene(6, 20), view_from({8, 4, 12}, {0, 1, 0}, 160, 90))}) {
            const Setup s = with({{"edges.kind", "temporal"}, {"edges.samples", "16"}, {"edges.share", "0.05"}}),
                        many = with({{"edges.kind", "supersample"}, {"edges.samples", "16"}});
            const ByteImage wanted = settled(scene, many, view).picture, joined = settled(scene, s, view, 32).picture;
            const double apart = mean_codes(joined, wanted),
                         without = mean_codes(settled(scene, with({}), view).picture, wanted);
            QVERIFY2(apart < 1, qPrintable(QString("%1 codes; without %2").arg(apart).arg(without)));
            QVERIFY2(apart < 0.65 * without, qPrintable(QString("%1 of %2").arg(apart).arg(without)));
        }
    }

    /// A lamp that goes off is gone within eight frames; what it left is on the map of ghosts, and stays where nothing
    /// is cut.
    void a_lamp_that_goes_off_leaves_no_ghost() {
        Scene scene = random_scene(6, 6);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 128, 72);
        scene.lights[1].type = LightType::point;
        scene.lights[1].position = {1, 3, 2};
        scene.lights[1].intensity = 120;
        scene.lights[1].color = {1, 1, 1};
        scene.lights[1].range = 0;
        Scene dark = scene;
        dark.lights[1].intensity = 0;
        const auto left_after = [&](const Values& v, int frames) {
            const Setup s = with({{"edges.kind", "temporal"}, {"ambient.kind", "none"}}, v);
            const FloatImage lit = settled(scene, s, view, 16).floats.at("final");
            FrameRecord r;
            for (int i = 0; i < frames; ++i)
                r = settled(dark, s, view);
            const FloatImage out = settled(dark, s, view, 16).floats.at("final");
            double ghost = 0, lamp = 0;
            for (std::size_t i = 0; i < lit.data.size(); ++i)
                if (i % 4 != 3) {
                    ghost += std::abs(r.floats.at("final").data[i] - out.data[i]);
                    lamp += std::abs(lit.data[i] - out.data[i]);
                }
            return ghost / lamp;
        };
        const double cut = left_after({}, 8), kept = left_after({{"edges.clip", "0"}}, 8);
        QVERIFY2(cut < 0.01, qPrintable(QString::number(cut)));
        QVERIFY2(kept > 0.2, qPrintable(QString::number(kept)));
        const Setup s = with({{"edges.kind", "temporal"}, {"ambient.kind", "none"}});
        const auto ghosts = [&](const Scene& of, int frames) {
            RenderOptions o;
            o.picture = false;
            o.frames = frames;
            o.floatLayers = {"ghosts"};
            const FloatImage map = answer_to(of, s, view, o).floats.at("ghosts");
            double sum = 0;
            for (int i = 0; i < map.width * map.height; ++i)
                sum += map.data[std::size_t(i) * 4] / (map.width * map.height);
            return sum;
        };
        const double still = ghosts(scene, 16), after = ghosts(dark, 0);
        QVERIFY2(after > 5 * still && after > 0.05, qPrintable(QString("%1, %2").arg(still).arg(after)));
    }

    /// Over a slow pan edges crawl less than without, and a fraction of the pixels grows to the shown size.
    void temporal_follows_a_pan_and_grows() {
        const EdgeQuestion q{stripes(), with({{"path.kind", "deferred"}}), before_stripes(), {}, 6, 0.25, 8};
        EdgeQuestion asked = q;
        asked.ways = *edge_ways(q.setup, {"none", "temporal", "temporal at half"});
        const auto quality = edge_quality(session(), asked);
        QVERIFY(quality && quality->ways.size() == 3);
        const EdgeWay &none = quality->ways[0], &joined = quality->ways[1], &half = quality->ways[2];
        const QString told = QString("still %1 %2 %3, moving %4 %5 %6, crawl %7 %8 %9 of %10")
                                 .arg(none.still.mean)
                                 .arg(joined.still.mean)
                                 .arg(half.still.mean)
                                 .arg(none.moving.mean)
                                 .arg(joined.moving.mean)
                                 .arg(half.moving.mean)
                                 .arg(none.crawl)
                                 .arg(joined.crawl)
                                 .arg(half.crawl)
                                 .arg(quality->change);
        QVERIFY2(joined.still.mean < 0.4 * none.still.mean, qPrintable(told));
        QVERIFY2(joined.moving.mean < 0.9 * none.moving.mean, qPrintable(told));
        QVERIFY2(half.still.mean < none.still.mean, qPrintable(told));
        QVERIFY2(joined.crawl < 0.6 * none.crawl, qPrintable(told));
        QVERIFY(joined.bytes > none.bytes && half.bytes < joined.bytes);
    }

    /// On a flat stage: scales and the filter; what has no depth to follow is not there.
    void flat_stages_are_smoothed_too() {
        FlatStage flat = flat_stage(4, 8, 5);
        const FloatImage own = flat_floats(flat, "final");
        for (const auto& [key, word] : Values{{"edges.kind", "temporal"},
                                              {"output.filter", "nearest"},
                                              {"output.scaleX", "2"},
                                              {"output.scaleY", "2"}})
            flat_choose(flat, key.c_str(), word.c_str());
        const FrameRecord grown = settled(flat.scene, flat.setup, flat.view);
        QCOMPARE(grown.picture.width, own.width);
        QVERIFY(!plan_frame(flat.scene, flat.setup, flat.view).has_history());
        flat_choose(flat, "output.scaleX", "1");
        flat_choose(flat, "output.scaleY", "1");
        QVERIFY(largest(flat_floats(flat, "final"), own) == 0);
        const ByteImage hard = settled(flat.scene, flat.setup, flat.view).picture;
        flat_choose(flat, "edges.kind", "filter");
        QVERIFY(!(settled(flat.scene, flat.setup, flat.view).picture == hard));
        flat_choose(flat, "edges.kind", "multisample");
        QVERIFY(settled(flat.scene, flat.setup, flat.view).picture == hard);
    }
};

MIROLUX_TEST(edges_test)
#include "edges_test.moc"
