#include "core/finish/edge_quality.h"
#include "core/finish/edges.h"
#include "core/finish/render_scale.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

class edges_test : public QObject {
    Q_OBJECT

    /// A half plane's coverage of each pixel by `side` x `side` samples; one sample: its middle.
    static FloatImage half_plane(int width, int height, double slope, double offset, int side) {
        FloatImage out{width, height, 3, {}};
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                int inside = 0;
                for (int j = 0; j < side; ++j)
                    for (int i = 0; i < side; ++i)
                        inside += y + (j + 0.5) / side < offset + slope * (x + (i + 0.5) / side);
                // The light that codes of 0.1 and 0.9 stand for.
                const double light = glm::mix(srgb_decode(0.1), srgb_decode(0.9), double(inside) / (side * side));
                for (int c = 0; c < 3; ++c)
                    out.data.push_back(static_cast<float>(srgb_encode(light)));
            }
        return out;
    }
    static double mean_apart(const FloatImage& a, const FloatImage& b) {
        double sum = 0;
        for (std::size_t i = 0; i < a.data.size(); ++i)
            sum += std::abs(double(a.data[i]) - b.data[i]);
        return sum / double(a.data.size());
    }

private slots:
    /// Every run of as many frames as there are places is stratified along both axes, and its mean is the middle.
    void jitter_is_stratified() {
        for (const int places : {2, 4, 8, 16, 64}) {
            std::set<int> columns, rows;
            glm::dvec2 mean(0.0);
            for (int i = 0; i < places; ++i) {
                const glm::dvec2 j = jitter_of(std::uint64_t(i), places);
                QVERIFY(j.x > -0.5 && j.x < 0.5 && j.y > -0.5 && j.y < 0.5);
                columns.insert(static_cast<int>((j.x + 0.5) * places));
                rows.insert(static_cast<int>((j.y + 0.5) * places));
                mean += j / double(places);
                QVERIFY(jitter_of(std::uint64_t(i + 3 * places), places) == j);
            }
            QCOMPARE(int(columns.size()), places);
            QCOMPARE(int(rows.size()), places);
            QVERIFY(glm::length(mean) < 1e-12);
        }
    }

    void mapping_is_undone() {
        for (const glm::dvec3 v : {glm::dvec3(0), glm::dvec3(0.2, 3, 1), glm::dvec3(900, 20, 0)}) {
            const glm::dvec3 back = unmapped_sample(mapped_sample(v, 0.4), 0.4);
            QVERIFY(glm::length(back - v) <= 1e-9 * (1 + glm::length(v)));
        }
        // A pixel half black, half a lamp a hundred times white, is not white: the tone curve's mean.
        const double s = 1, shown = unmapped_sample(0.5 * mapped_sample(glm::dvec3(100), s), s).x;
        QVERIFY(shown > 0.9 && shown < 1.1);
    }

    /// What a rendered picture's size is, and that a view is not scaled twice.
    void sizes_follow_the_scales() {
        View view;
        view.width = 300;
        view.height = 200;
        const auto size = [&](const std::vector<std::pair<std::string, std::string>>& values) {
            const View v = rendered_view(setup_with(values), view);
            return glm::ivec2(v.width, v.height);
        };
        QVERIFY(size({}) == glm::ivec2(300, 200));
        QCOMPARE(rendered_view(setup_with({}), view).shownWidth, 0);
        QVERIFY(size({{"output.scaleX", "0.5"}}) == glm::ivec2(150, 200));
        QVERIFY(size({{"output.scaleX", "2"}, {"output.scaleY", "3"}}) == glm::ivec2(600, 600));
        QVERIFY(size({{"edges.kind", "supersample"}}) == glm::ivec2(600, 400));
        QVERIFY(size({{"edges.kind", "supersample"}, {"edges.samples", "8"}}) == glm::ivec2(1200, 400));
        QVERIFY(size({{"edges.kind", "supersample"}, {"output.scaleX", "3"}}) == glm::ivec2(900, 200));
        QVERIFY(size({{"output.scaleX", "0.3"}, {"output.scaleY", "0.3"}, {"output.whole", "on"}}) ==
                glm::ivec2(100, 67));
        const Setup half = setup_with({{"output.scaleX", "0.5"}, {"output.scaleY", "0.25"}});
        const View once = rendered_view(half, view);
        QVERIFY(rendered_view(half, once) == once);
        QVERIFY(shown_size(once) == glm::ivec2(300, 200));
        QCOMPARE(aspect_of(once), 1.5);
        QVERIFY(rendered_pixel(once, {299, 199}) == glm::ivec2(149, 49));
        // A quick picture stands for one of the same proportions and the same factor.
        View quick = view;
        quick.width = 60;
        quick.height = 40;
        quick.wholeWidth = 300;
        quick.wholeHeight = 200;
        const View whole = at_whole_size(rendered_view(half, quick));
        QVERIFY(glm::ivec2(whole.width, whole.height) == glm::ivec2(150, 50));
    }

    /// Weights of a shown column sum to 1; sizes down keep the mean, and an even picture stays even.
    void resizing_keeps_light() {
        for (const double step : {0.2, 0.5, 0.77, 1.0, 1.5, 2.0, 3.3, 16.0})
            for (const bool smooth : {true, false}) {
                const int shown = 40, rendered = static_cast<int>(shown * step);
                for (int at = 0; at < shown; ++at) {
                    double sum = 0;
                    for (int i = 0; i < rendered; ++i)
                        sum += column_weight(double(rendered) / shown, rendered, i, at, smooth);
                    QVERIFY(std::abs(sum - 1) < 1e-9);
                }
            }
        FloatImage noise{90, 60, 3, {}};
        std::mt19937 random(4);
        double mean = 0;
        for (int i = 0; i < 90 * 60 * 3; ++i) {
            noise.data.push_back(random_in(random, 0, 5));
            mean += noise.data.back() / (90 * 60 * 3);
        }
        const FloatImage small = resized(noise, 36, 25, true);
        double after = 0;
        for (const float v : small.data)
            after += v / double(small.data.size());
        QVERIFY(std::abs(after - mean) < 1e-4 * mean);
        // Blocks of whole pixels are all of one value.
        const FloatImage blocks = resized(noise, 270, 180, false, {3, 3});
        for (int y = 0; y < 180; ++y)
            for (int x = 0; x < 270; ++x)
                QCOMPARE(blocks.pixel(x, y)[0], noise.pixel(x / 3, y / 3)[0]);
    }

    /// Along straight edges of many slopes the filter comes nearer to what is covered, by half on average, and it
    /// leaves even areas and weak contrast alone.
    void filter_follows_straight_edges() {
        double before = 0, after = 0;
        for (const double slope : {0.05, 0.1, 0.17, 0.25, 0.4, 0.7, 1.0, -0.12, -0.3}) {
            const double offset = slope > 0 ? 10.3 : 30.3;
            const FloatImage stepped = half_plane(64, 40, slope, offset, 1),
                             truth = half_plane(64, 40, slope, offset, 16);
            const FloatImage filtered = edges_filtered(stepped, 0.06, 16);
            const double own = mean_apart(stepped, truth), left = mean_apart(filtered, truth);
            QVERIFY2(left < own, qPrintable(QString("slope %1: %2 of %3").arg(slope).arg(left).arg(own)));
            before += own;
            after += left;
        }
        QVERIFY2(after < 0.55 * before, qPrintable(QString("%1 of %2 is left").arg(after).arg(before)));
        const FloatImage even{16, 9, 3, std::vector<float>(16 * 9 * 3, 0.5f)};
        QVERIFY(edges_filtered(even, 0.06, 16).data == even.data);
        FloatImage faint = half_plane(32, 20, 0.2, 8, 1);
        for (float& v : faint.data)
            v = 0.5f + 0.05f * v;
        QVERIFY(edges_filtered(faint, 0.06, 16).data == faint.data);
    }

    /// Only the truth's edges count, in codes; a pan by whole pixels moves the picture by as many.
    void errors_are_of_edges() {
        ByteImage truth{8, 4, std::vector<std::uint8_t>(8 * 4 * 4, 20)}, off = truth;
        for (int y = 0; y < 4; ++y)
            for (int x = 4; x < 8; ++x)
                for (int c = 0; c < 3; ++c)
                    truth.rgba[std::size_t(4 * (8 * y + x) + c)] = 220;
        off = truth;
        for (int c = 0; c < 3; ++c) {
            off.rgba[std::size_t(4 * (8 * 1 + 4) + c)] = 180; // on the edge
            off.rgba[std::size_t(4 * (8 * 1 + 0) + c)] = 90;  // where none is
        }
        const EdgeErrors e = edge_errors(off, truth);
        QCOMPARE(e.pixels, 8);
        QVERIFY(std::abs(e.mean - 40.0 / 8) < 1e-9);
        QVERIFY(std::abs(edge_change(truth, off, truth, truth) - 40.0 / 8) < 1e-9);
        QVERIFY(std::abs(edge_crawl(truth, off, truth, truth) - 40.0 / 8) < 1e-9);
        QCOMPARE(edge_crawl(truth, off, truth, off), 0.0); // the truth changes alike
        QCOMPARE(edge_errors(truth, truth).mean, 0.0);
        const View view = view_from({0, 0, 5}, {0, 0, 0}, 200, 100);
        const Camera turned = panned(view.camera, view, 1);
        View now = view;
        now.camera = turned;
        const auto place = [](const View& v) {
            const glm::vec4 p =
                projection_matrix(v.camera, aspect_of(v)) * view_matrix(v.camera) * glm::vec4(0, 0, 0, 1);
            return (p.x / p.w * 0.5 + 0.5) * v.width;
        };
        QVERIFY(std::abs(place(view) - place(now) - 1) < 0.01);
    }

    void ways_are_named() {
        const auto all = edge_ways(Setup(), {});
        QVERIFY(all && all->size() == 6);
        QCOMPARE(all->back().second.number("output.scaleX"), 0.5);
        QVERIFY(!edge_ways(Setup(), {"blur"}));
    }
};

MIROLUX_TEST(edges_test)
#include "edges_test.moc"
