#include "core/image/target_picture.h"
#include "core/path/path_kind.h"
#include "core/plan/anatomy.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <limits>
#include <map>
#include <set>
#include <tuple>

using namespace mirolux;
using namespace mirolux::test;

/// What a plan tells about its frame, and how a target's values become a picture.
class anatomy_test : public QObject {
    Q_OBJECT
    static FramePlan planned(const std::string& path, Stereo stereo, const std::string& format = "rgba16f") {
        Setup s;
        (void)s.set_text("path.kind", path);
        (void)s.set_text("transparency.kind", "peeled");
        (void)s.set_text("path.targetFormat", format);
        View v = view_from({8, 4, 12}, {0, 1, 0}, 65, 37);
        v.stereo = stereo;
        return plan_frame(random_scene(4, 10), s, v);
    }
private slots:
    /// Bytes from format, size, layers and mips alone; the peak by counting, over classes of one format and size, how
    /// many live together.
    void bytes_are_those_of_format_size_layers_and_mips() {
        for (const Stereo stereo : {Stereo::off, Stereo::twoPasses, Stereo::onePass})
            for (const std::string& path : path_words([](const PathKind&) { return true; })) {
                const FramePlan plan = planned(path, stereo);
                std::size_t sum = 0;
                using Class = std::tuple<int, int, int, int, bool>;
                std::map<Class, std::vector<const PlannedResource*>> classes;
                for (const PlannedResource& r : plan.resources) {
                    std::size_t bytes = 0, w = static_cast<std::size_t>(r.width),
                                h = static_cast<std::size_t>(r.height);
                    for (int m = 0; m < r.spec.mips;
                         ++m, w = std::max<std::size_t>(1, w / 2), h = std::max<std::size_t>(1, h / 2))
                        bytes += w * h * static_cast<std::size_t>(info_of(r.spec.format).bytes);
                    if (r.spec.entries > 0) bytes = r.spec.entries * 4;
                    bytes *= stereo == Stereo::off ? 1 : 2;
                    QCOMPARE(r.bytes, bytes);
                    sum += bytes;
                    classes[{int(r.spec.format), r.width, r.height, int(r.spec.entries),
                             r.spec.kept || r.spec.entries > 0}]
                        .push_back(&r);
                }
                QCOMPARE(plan.bytesSum, sum);
                std::size_t peak = 0;
                for (const auto& [shape, members] : classes) {
                    std::size_t most = 0;
                    for (int pass = 0; pass < int(plan.passes.size()); ++pass) {
                        std::size_t alive = 0;
                        for (const PlannedResource* r : members)
                            if (std::get<4>(shape) || (r->first <= pass && pass <= r->last)) alive += r->bytes;
                        most = std::max(most, alive);
                    }
                    peak += most;
                }
                QVERIFY2(plan.bytesHeld == peak, path.c_str());
                const auto alive = bytes_alive(plan);
                QCOMPARE(*std::max_element(alive.begin(), alive.end()), plan.bytesPeak);
                QVERIFY(plan.bytesPeak <= plan.bytesHeld && plan.bytesHeld <= plan.bytesSum);
            }
    }

    void uses_are_those_that_the_passes_name() {
        const FramePlan plan = planned("tiled-deferred", Stereo::off);
        std::set<std::tuple<std::string, int, bool>> wanted, got;
        for (std::size_t i = 0; i < plan.passes.size(); ++i) {
            for (const std::string& n : plan.passes[i].reads)
                wanted.insert({n, int(i), false});
            for (const std::string& n : plan.passes[i].writes)
                wanted.insert({n, int(i), true});
        }
        for (const PlannedResource& r : plan.resources) {
            const Uses u = uses_of(plan, r);
            for (const int i : u.readers)
                got.insert({r.spec.name, i, false});
            for (const int i : u.writers)
                got.insert({r.spec.name, i, true});
        }
        QVERIFY(wanted == got);
        for (const PlannedResource& r : plan.resources)
            for (const std::string& other : shares_memory_with(plan, r)) {
                const PlannedResource& o = *plan.resource(other);
                QVERIFY(o.last < r.first || r.last < o.first);
            }
    }

    void two_plans_differ_where_they_do() {
        const FramePlan a = planned("deferred", Stereo::off), b = planned("forward", Stereo::off, "rgba32f");
        QCOMPARE(difference_from(a, *a.resource("scene"), "B"), std::string());
        QCOMPARE(difference_from(b, *a.resource("scene"), "B"), std::string("RGBA32F in B"));
        QCOMPARE(difference_from(b, *a.resource("normal"), "B"), std::string("not in B"));
        QCOMPARE(difference_from(b, *a.pass("shading"), "B"), std::string("not in B"));
        QCOMPARE(difference_from(a, *a.pass("shading"), "B"), std::string());
        const FramePlan c = planned("tiled-deferred", Stereo::off);
        QCOMPARE(difference_from(c, *a.pass("shading"), "B"), std::string("B also reads light lists"));
        QCOMPARE(difference_from(a, *c.pass("shading"), "A"), std::string("A does not read light lists"));
    }

    void layers_belong_to_the_pass_that_makes_them() {
        const FramePlan forward = planned("forward", Stereo::off), deferred = planned("deferred", Stereo::off);
        const struct {
            const char *layer, *forward, *deferred;
        } cases[] = {{"depth", "opaque", "g-buffer"},
                     {"albedo", "opaque", "g-buffer"},
                     {"specular", "opaque", "shading"},
                     {"direct", "opaque", "shading"},
                     {"final", "finish", "finish"}};
        for (const auto& c : cases) {
            QCOMPARE(pass_of(forward, *find_layer(c.layer)), std::string(c.forward));
            QCOMPARE(pass_of(deferred, *find_layer(c.layer)), std::string(c.deferred));
        }
    }

    void values_map_to_grey_by_their_range() {
        FloatImage image{4, 1, 1, {-1.0f, 0.0f, 1.0f, 3.0f}};
        const ByteImage p = picture_of(image, Channel::all, {-1.0f, 3.0f}, false);
        const int grey[] = {0, 64, 128, 255};
        for (int i = 0; i < 4; ++i)
            for (int c = 0; c < 3; ++c)
                QVERIFY(std::abs(p.rgba[std::size_t(4 * i + c)] - grey[i]) <= 1);
        const ByteImage light = picture_of(image, Channel::all, {0.0f, 2.0f}, true);
        QVERIFY(std::abs(light.rgba[8] - 255 * srgb_encode(0.5)) <= 1);
        FloatImage two{1, 1, 2, {0.25f, 0.5f}};
        const ByteImage t = picture_of(two, Channel::all, {0, 1}, false);
        QVERIFY(std::abs(t.rgba[0] - 64) <= 1 && std::abs(t.rgba[1] - 128) <= 1 && t.rgba[2] == 0);
        const ByteImage g = picture_of(two, Channel::green, {0, 1}, false);
        QVERIFY(g.rgba[0] == g.rgba[1] && g.rgba[1] == g.rgba[2] && std::abs(g.rgba[0] - 128) <= 1);
        QCOMPARE(texel_text(two, 0, 0, false), std::string("0.25 0.5"));
        QCOMPARE(texel_text(FloatImage{1, 1, 1, {70000.0f}}, 0, 0, true), std::string("70000"));
    }

    void what_is_not_a_number_is_seen() {
        const float nan = std::numeric_limits<float>::quiet_NaN(), inf = std::numeric_limits<float>::infinity();
        const FloatImage image{3, 1, 1, {nan, inf, 0.5f}};
        const ByteImage p = picture_of(image, Channel::all, range_of(image, Channel::all), false);
        for (const std::size_t i : {0u, 4u})
            QVERIFY(p.rgba[i] == 255 && p.rgba[i + 1] == 0 && p.rgba[i + 2] == 255);
        QVERIFY(p.rgba[8] == p.rgba[9]);
    }

    void the_range_leaves_out_half_a_percent_at_each_end_and_is_never_empty() {
        FloatImage image{1000, 1, 1, {}};
        for (int i = 0; i < 1000; ++i)
            image.data.push_back(i == 0 ? -1e9f : i == 999 ? 1e9f : float(i));
        const ValueRange r = range_of(image, Channel::all);
        QCOMPARE(r, (ValueRange{5.0f, 994.0f}));
        const FloatImage flat{2, 1, 1, {4.0f, 4.0f}};
        QVERIFY(range_of(flat, Channel::all).high > range_of(flat, Channel::all).low);
        QCOMPARE(range_of(FloatImage{}, Channel::red), ValueRange{});
    }
};

MIROLUX_TEST(anatomy_test)
#include "anatomy_test.moc"
