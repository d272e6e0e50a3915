#include "core/io/file.h"
#include "core/truth/truth_picture.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QTemporaryDir>
#include <QtTest>
#include <tbb/global_control.h>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

/// Samples of the path tracer: unbiased, falling as they should, the same however they are asked for, and kept.
class truth_samples_test : public QObject {
    Q_OBJECT

private slots:
    /// Means of few samples scatter about the mean of many as their variance says: 0.3 to 2 % beyond the 99 % interval.
    void means_are_unbiased() {
        int beyond = 0, asked = 0;
        for (const std::uint32_t seed : {1u, 2u, 3u}) {
            const Scene scene = corner(seed);
            Setup setup;
            if (seed == 2) QVERIFY(setup.set_text("air.kind", "uniform").has_value());
            const View view = small(64, 48);
            const auto rays = std::make_shared<RayScene>(scene);
            const auto blocks = [&](std::uint32_t s, std::uint32_t samples) {
                Options o;
                o.seed = s;
                o.bounces = 3;
                o.clamp = 0;
                Picture p(view.width, view.height);
                refine(PathTracer(scene, setup, view, o, rays), p, {samples, 0}, [](double) { return true; });
                std::vector<double> out(12, 0.0);
                for (int y = 0; y < 48; ++y)
                    for (int x = 0; x < 64; ++x)
                        out[std::size_t(y / 16 * 4 + x / 16)] +=
                            luminance(p.sum[std::size_t(y * 64 + x)]) / samples / 256;
                return out;
            };
            std::vector<std::vector<double>> few;
            for (std::uint32_t k = 0; k < 64; ++k)
                few.push_back(blocks(100 + k, 16));
            const std::vector<double> many = blocks(7, 1024);
            for (std::size_t b = 0; b < 12; ++b) {
                double m = 0, v = 0;
                for (const auto& f : few)
                    m += f[b] / 64;
                for (const auto& f : few)
                    v += (f[b] - m) * (f[b] - m) / 63;
                for (const auto& f : few) { // both scatter, the many samples a 64th as much
                    beyond += std::abs(f[b] - many[b]) > 2.576 * std::sqrt(v * (1 + 1 / 64.0));
                    ++asked;
                }
            }
        }
        qInfo("%d of %d blocks beyond the 99 %% interval", beyond, asked);
        QVERIFY(beyond >= 0.003 * asked && beyond <= 0.02 * asked);
    }

    /// Error falls with the root of the samples, and faster with the low-discrepancy sequence.
    void the_error_falls_as_it_should() {
        const Scene scene = corner(6);
        const Setup setup;
        const View view = small(32, 24);
        const auto rays = std::make_shared<RayScene>(scene);
        Options o;
        o.layer = Layer::direct;
        o.seed = 99;
        Picture best(32, 24);
        refine(PathTracer(scene, setup, view, o, rays), best, {16384, 0}, [](double) { return true; });
        std::map<Sequence, std::vector<double>> errors;
        for (const Sequence sequence : {Sequence::random, Sequence::sobol}) {
            o.sequence = sequence;
            for (const std::uint32_t samples : {16u, 32u, 64u, 128u, 256u}) {
                double squares = 0;
                for (std::uint32_t seed = 1; seed <= 4; ++seed) {
                    o.seed = seed;
                    Picture p(32, 24);
                    refine(PathTracer(scene, setup, view, o, rays), p, {samples, 0}, [](double) { return true; });
                    for (std::size_t i = 0; i < p.sum.size(); ++i) {
                        const double d = luminance(p.sum[i]) / samples - luminance(best.sum[i]) / 16384;
                        squares += d * d;
                    }
                }
                errors[sequence].push_back(std::sqrt(squares));
            }
        }
        const auto slope = [](const std::vector<double>& e) {
            return std::log2(e.back() / e.front()) / static_cast<double>(e.size() - 1);
        };
        const auto &random = errors[Sequence::random], &sobol = errors[Sequence::sobol];
        qInfo("slopes: random %.3f, Sobol %.3f", slope(random), slope(sobol));
        QVERIFY(std::abs(slope(random) + 0.5) < 0.05);
        QVERIFY(slope(sobol) < -0.45);
        for (std::size_t i = 0; i < sobol.size(); ++i)
            QVERIFY(sobol[i] <= random[i]);
    }

    void samples_are_the_same_on_any_number_of_threads_and_in_any_slices() {
        const Scene scene = corner(4);
        const Setup setup;
        const View view = small(48, 32);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        const auto run = [&](std::size_t threads, std::uint32_t firstGoal) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            Picture p(48, 32);
            if (firstGoal) refine(tracer, p, {firstGoal, 0}, [](double) { return true; });
            refine(tracer, p, {40, 0}, [](double) { return true; });
            return p;
        };
        const Picture one = run(1, 0);
        QVERIFY(one == run(2, 0));
        QVERIFY(one == run(2, 13));
    }

    void a_kept_picture_goes_on_where_it_was_left() {
        QTemporaryDir folder;
        const auto path = folder.filePath("a.truth").toStdString();
        const Scene scene = corner(4);
        const Setup setup;
        const View view = small(40, 24);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        const std::string digest = digest_of(scene, setup, view, {});
        Picture whole(40, 24), part(40, 24);
        refine(tracer, whole, {32, 0}, [](double) { return true; });
        int slices = 0;
        refine(tracer, part, {32, 0}, [&](double) { return ++slices < 2; });
        QVERIFY(part != whole && part.rays > 0 && part.rays < whole.rays);
        QVERIFY(write_picture(path, part, digest).has_value());
        auto again = read_picture(path, digest);
        QVERIFY(again.has_value() && *again == part);
        refine(tracer, *again, {32, 0}, [](double) { return true; });
        QVERIFY(*again == whole);
        // What cannot be used says why.
        Scene other = scene;
        other.lights[2].intensity += 1;
        QVERIFY(digest_of(other, setup, view, {}) != digest);
        QVERIFY(!read_picture(path, digest_of(other, setup, view, {})));
        auto bytes = *read_file(path);
        for (const std::size_t at : {std::size_t(3), bytes.size() / 2, bytes.size() - 3}) {
            auto damaged = bytes;
            damaged[at] ^= 0x10;
            QVERIFY(write_file_atomically(path, std::string(damaged.begin(), damaged.end())).has_value());
            QVERIFY(!read_picture(path, digest));
        }
        QVERIFY(write_file_atomically(path, std::string(bytes.begin(), bytes.begin() + 60)).has_value());
        QVERIFY(!read_picture(path, digest));
        QVERIFY(!read_picture(folder.filePath("none").toStdString(), digest));
    }

    void an_error_is_asked_for_and_met() {
        const Scene scene = corner(3);
        const Setup setup;
        const View view = small(48, 32);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        Picture p(48, 32);
        refine(tracer, p, {4096, 0.05}, [](double) { return true; });
        QVERIFY2(p.relative_error() <= 0.05 || p.fewest() == 4096, qPrintable(QString::number(p.relative_error())));
        const auto [least, most] = std::minmax_element(p.count.begin(), p.count.end());
        QVERIFY2(*most > *least, "samples go where the error is");
    }

    void distances_are_over_the_mean_of_the_truth() {
        const FloatImage t{2, 1, 4, {1, 1, 1, 0, 3, 3, 3, 0}}, a{2, 1, 3, {2, 2, 2, 3, 3, 3}};
        const Distance d = distance(a, t);
        QCOMPARE(d.mean, 0.25);
        QCOMPARE(d.bias, 0.25);
        QVERIFY(std::abs(d.rms - std::sqrt(0.5) / 2) < 1e-12);
        QVERIFY(std::abs(d.p95 - 0.5) < 1e-12);
    }
};

MIROLUX_TEST(truth_samples_test)
#include "truth_samples_test.moc"
