#include "core/finish/exposure.h"
#include "core/finish/outline.h"
#include "core/light/tone.h"
#include "core/scene/object_edit.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class outline_test : public QObject {
    Q_OBJECT

    static Setup about(const Scene& scene, int object, std::vector<std::pair<std::string, std::string>> more) {
        more.emplace_back("outline.objects", object_name(scene, object).id);
        more.emplace_back("path.targetFormat", "rgba32f");
        more.emplace_back("output.dither", "none");
        return setup_with(more);
    }
    static FloatImage target(const Scene& scene, const Setup& setup, const View& view, const char* name) {
        RenderOptions o;
        o.picture = false;
        o.targets = {{.target = name}};
        return answer_to(scene, setup, view, o).targets.front();
    }

private slots:
    /// The mask of what is seen is where the layer of objects has the object; through others it is larger.
    void mask_is_the_object() {
        const Scene scene = random_scene(6, 4);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 128, 72);
        const FloatImage objects = hdr(scene, setup_with({{"path.targetFormat", "rgba32f"}}), view, "objects");
        std::map<int, int> pixels;
        for (std::size_t i = 3; i < objects.data.size(); i += 4)
            ++pixels[static_cast<int>(std::lround(objects.data[i])) - 1];
        int tried = 0;
        for (const auto& [object, count] : pixels) {
            if (object < 0 || count < 60) continue;
            const Object& o = scene.asset->objects[static_cast<std::size_t>(object)];
            const Material& m = scene.asset->materials[static_cast<std::size_t>(scene.asset->material_index(o))];
            if (m.alphaMode != AlphaMode::opaque) continue;
            ++tried;
            const FloatImage seen = target(scene, about(scene, object, {{"outline.kind", "seen"}}), view,
                                           outline_mask_resource),
                             whole = target(scene, about(scene, object, {{"outline.kind", "through"}}), view,
                                            outline_mask_resource);
            int mask = 0, all = 0, off = 0;
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    const bool on = seen.pixel(x, y)[0] > 0.5f;
                    mask += on;
                    all += whole.pixel(x, y)[0] > 0.5f;
                    QVERIFY(!on || whole.pixel(x, y)[0] > 0.5f);
                    off += std::lround(objects.pixel(x, y)[3]) - 1 == object && !on; // a pane may cover it there
                }
            QCOMPARE(off, 0);
            QVERIFY(mask > 0 && all >= mask);
        }
        QVERIFY(tried > 2);
    }

    /// Grown and rim against the reference, and the line over the picture by its formula.
    void steps_are_the_reference_s() {
        const Scene scene = random_scene(6, 4);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 128, 72);
        for (const char* width : {"1", "4", "11"}) {
            const Setup s = about(scene, 5, {{"outline.kind", "through"}, {"outline.width", width}});
            const int radius = s.whole("outline.width");
            const FloatImage mask = target(scene, s, view, outline_mask_resource),
                             grown = target(scene, s, view, outline_grown_resource),
                             rim = target(scene, s, view, outline_resource), wanted = grown_mask(mask, radius),
                             line = rim_of(wanted, radius);
            double on = 0;
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    QVERIFY(std::abs(grown.pixel(x, y)[0] - wanted.pixel(x, y)[0]) < 1e-4f);
                    QVERIFY(std::abs(rim.pixel(x, y)[0] - line.pixel(x, y)[0]) < 0.01f);
                    on += line.pixel(x, y)[0];
                }
            QVERIFY(on > 30);
        }
    }

    void the_line_lies_over_the_picture() {
        const Scene scene = random_scene(6, 4);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 128, 72);
        const Setup s = about(scene, 5,
                              {{"outline.kind", "through"},
                               {"outline.strength", "1"},
                               {"tone.curve", "clamp"},
                               {"outline.color", "0,1,0"}}),
                    off = about(scene, 5, {{"tone.curve", "clamp"}});
        const FloatImage rim = target(scene, s, view, outline_resource);
        const ByteImage with = answer_to(scene, s, view).picture, without = answer_to(scene, off, view).picture;
        int full = 0;
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const std::size_t at = std::size_t(4) * std::size_t(y * view.width + x);
                if (rim.pixel(x, y)[0] == 0)
                    QVERIFY(std::equal(with.rgba.begin() + long(at), with.rgba.begin() + long(at) + 4,
                                       without.rgba.begin() + long(at)));
                else if (rim.pixel(x, y)[0] == 1) {
                    ++full;
                    QVERIFY(with.rgba[at] == 0 && with.rgba[at + 1] == 255 && with.rgba[at + 2] == 0);
                }
            }
        QVERIFY(full > 20);
        // Off it costs no pass; a name that nothing has is said.
        QVERIFY(!plan_frame(scene, off, view).pass("rim"));
        const FramePlan lost =
            plan_frame(scene, setup_with({{"outline.kind", "seen"}, {"outline.objects", "nobody"}}), view);
        QVERIFY(!lost.pass("rim") && !lost.notes.empty());
    }

    /// At another size of rendering, on every path and for both eyes, it is there.
    void it_goes_with_all_paths() {
        const Scene scene = random_scene(6, 4);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        FloatImage first;
        for (const char* path : paths) {
            const FloatImage rim =
                target(scene, about(scene, 5, {{"outline.kind", "seen"}, {"path.kind", path}}), view, outline_resource);
            if (first.data.empty()) first = rim;
            QVERIFY2(rim.data == first.data, path);
        }
        for (const char* stereo : {"two-passes", "one-pass"}) {
            View eyes = view;
            eyes.stereo = *stereo_of(stereo);
            QVERIFY2(!answer_to(scene, about(scene, 5, {{"outline.kind", "seen"}}), eyes).picture.empty(), stereo);
        }
        const Setup half =
            about(scene, 5, {{"outline.kind", "seen"}, {"output.scaleX", "0.5"}, {"output.scaleY", "0.5"}});
        QCOMPARE(target(scene, half, view, outline_resource).width, 48);
        QCOMPARE(answer_to(scene, half, view).picture.width, 96);
    }

    void objects_are_named() {
        const Scene scene = random_scene(6, 4);
        const Setup s = outlining(scene, Setup(), {2, 5});
        QCOMPARE(s.choice("outline.kind"), std::string("seen"));
        QVERIFY((outlined_objects(scene, s) == std::vector<int>{2, 5}));
        QVERIFY(outlined_objects(scene, Setup()).empty());
    }

    /// A grown mask is the disc about its pixels, by brute force.
    void growing_is_by_discs() {
        FloatImage mask{40, 30, 1, std::vector<float>(1200, 0.0f)};
        const std::vector<glm::ivec2> on = {{6, 5}, {7, 5}, {25, 20}, {39, 0}};
        for (const glm::ivec2& p : on)
            *mask.pixel(p.x, p.y) = 1;
        for (const int radius : {1, 3, 7}) {
            const FloatImage grown = grown_mask(mask, radius);
            for (int y = 0; y < 30; ++y)
                for (int x = 0; x < 40; ++x) {
                    double best = 0;
                    for (const glm::ivec2& p : on)
                        best = std::max(best,
                                        1 - ((x - p.x) * (x - p.x) + (y - p.y) * (y - p.y)) / double(radius * radius));
                    QVERIFY(std::abs(grown.pixel(x, y)[0] - best) < 1e-6);
                }
        }
    }
};

MIROLUX_TEST(outline_test)
#include "outline_test.moc"
