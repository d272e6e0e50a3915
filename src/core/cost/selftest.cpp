#include "core/cost/selftest.h"
#include <cmath>
#include <random>

namespace mirolux {

int binomial_bound(int n, double p, double level) {
    double term = std::pow(1 - p, n), sum = term;
    int k = 0;
    while (sum < level && k < n) {
        term *= (n - k) / double(k + 1) * p / (1 - p);
        sum += term;
        ++k;
    }
    return k;
}

Result<Comparison> clock_overhead(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                  int rounds, std::uint32_t seed) {
    std::mt19937 random(seed);
    std::vector<double> off, on;
    bool onFirst = false;
    for (int round = -3; round < rounds; ++round) { // the first three warm up
        onFirst = round % 2 == 0 ? (random() & 1u) != 0 : !onFirst;
        for (const bool queries : {onFirst, !onFirst}) {
            RenderOptions o;
            o.picture = false;
            o.fencedSamples = 0;
            o.wholeSamples = 1;
            o.wholeQueries = queries;
            auto record = session.render(scene, setup, view, o);
            if (!record) return tl::unexpected(record.error());
            if (round >= 0) (queries ? on : off).push_back(record->wholeMs.front());
        }
    }
    return compare_paired(off, on, seed);
}

Result<SelftestReport> selftest(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                const SelftestOptions& options) {
    SelftestReport report;
    auto device = session.device();
    if (!device) return tl::unexpected(device.error());
    report.clock = device->clock;
    report.rounds = options.rounds;
    report.allowedAlarms = binomial_bound(options.runs, 0.05, 0.99);
    auto overhead = clock_overhead(session, scene, setup, view, options.overheadRounds, options.seed);
    if (!overhead) return tl::unexpected(overhead.error());
    report.clockOverhead = *overhead;
    const auto reported = [&](const char* step, int done) {
        return !options.progress || options.progress(step, done, options.runs);
    };
    MeasureOptions m;
    m.rounds = options.rounds;
    m.gpuClock = options.gpuClock;
    double frameMs = 0;
    for (int i = 0; i < options.runs; ++i) {
        if (!reported("A against A", i))
            return fail("the self-test was stopped", "selftest", "Start it again: half of it says nothing.");
        m.seed = options.seed + static_cast<std::uint32_t>(i);
        auto run = measure_paired(session, scene, setup, setup, view, m);
        if (!run) return tl::unexpected(run.error());
        report.falseAlarms += run->frame.verdict != Verdict::notShown;
        frameMs = run->a.frame.median;
        ++report.runs;
    }
    // What a round of the known work costs here: two amounts, so that the cost of submitting it drops out.
    const auto work_ms = [&](int amount) -> Result<double> {
        std::vector<double> ms;
        for (int i = 0; i < 7; ++i) {
            RenderOptions o;
            o.picture = false;
            o.injectedWork = amount;
            o.gpuClock = options.gpuClock;
            auto record = session.render(scene, setup, view, o);
            if (!record) return tl::unexpected(record.error());
            for (const PassRecord& p : record->passes)
                if (p.name == injected_pass) ms.push_back(p.ms.front());
        }
        return median(ms);
    };
    int large = 64;
    auto most = work_ms(large);
    while (most && *most < 0.2 * frameMs && large < (1 << 20))
        most = work_ms(large *= 2);
    if (!most) return tl::unexpected(most.error());
    const auto least = work_ms(large / 4);
    if (!least) return tl::unexpected(least.error());
    const double perRound = (*most - *least) / (0.75 * large), fixed = *most - perRound * large;
    for (double share = options.slowdown; share <= 0.4001; share *= 2) {
        SelftestReport::Injection injection;
        injection.asked = share;
        m.injectedInB =
            std::max(1, static_cast<int>(std::lround((share * frameMs - fixed) / std::max(perRound, 1e-9))));
        std::vector<double> injected;
        for (int i = 0; i < options.runs; ++i) {
            if (!reported("an injected slowdown", i))
                return fail("the self-test was stopped", "selftest", "Start it again: half of it says nothing.");
            m.seed = options.seed + 1000 + static_cast<std::uint32_t>(i);
            auto run = measure_paired(session, scene, setup, setup, view, m);
            if (!run) return tl::unexpected(run.error());
            injection.found += run->frame.verdict == Verdict::slower;
            for (const PassFigure& p : run->b.passes)
                if (p.name == injected_pass) injected.push_back(p.ms.median / run->a.frame.median);
        }
        injection.injected = median(injected);
        report.injections.push_back(injection);
        if (injection.found * 100 >= 95 * options.runs) {
            report.smallestFound = injection.injected;
            break;
        }
    }
    return report;
}

} // namespace mirolux
