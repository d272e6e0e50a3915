#include "core/cost/measure.h"
#include "core/finish/exposure.h"
#include <algorithm>
#include <cmath>
#include <random>

namespace mirolux {

namespace {

/// Figures of the kept frames.
void summarise(Measurement& m, const std::vector<double>& wholeMs, std::uint32_t seed) {
    for (std::size_t i = 0; i < m.passes.size(); ++i)
        m.passes[i].ms = bootstrap_median(m.passMs[i], seed);
    m.frame = bootstrap_median(m.frameMs, seed);
    m.whole = bootstrap_median(wholeMs, seed);
    m.p95 = quantile(m.frameMs, 0.95);
    m.p99 = quantile(m.frameMs, 0.99);
    m.worst = quantile(m.frameMs, 1.0);
    m.rounds = static_cast<int>(m.frameMs.size());
}

/// One setup under measurement: takes samples and sums them up.
class Subject {
public:
    Subject(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
            const MeasureOptions& options, int injected = 0, bool main = true)
        : session_(session), scene_(scene), setup_(setup), view_(view), options_(options), injected_(injected),
          main_(main) {}

    Result<double> sample(bool keep) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 1;
        o.wholeSamples = 1;
        o.gpuClock = options_.gpuClock;
        o.injectedWork = injected_;
        auto record = session_.render(scene_, setup_, view_, o);
        if (!record) return tl::unexpected(record.error());
        double sum = 0;
        for (const PassRecord& p : record->passes)
            sum += p.ms.empty() ? 0.0 : p.ms.front();
        if (keep) {
            if (result_.passes.empty()) {
                for (const PassRecord& p : record->passes)
                    result_.passes.push_back({p.name, p.family, {}, p.work});
                result_.passMs.resize(record->passes.size());
            }
            for (std::size_t i = 0; i < record->passes.size() && i < result_.passMs.size(); ++i)
                result_.passMs[i].push_back(record->passes[i].ms.empty() ? 0.0 : record->passes[i].ms.front());
            result_.frameMs.push_back(sum);
            wholeMs_.insert(wholeMs_.end(), record->wholeMs.begin(), record->wholeMs.end());
            result_.clock = record->clock;
            if (options_.kept && main_) {
                RoundSample s;
                for (const PassRecord& p : record->passes)
                    s.passes.push_back({p.name, p.family, p.ms.empty() ? 0.0 : p.ms.front()});
                s.wholeMs = record->wholeMs.empty() ? 0.0 : record->wholeMs.front();
                s.clock = record->clock;
                options_.kept(s);
            }
        }
        return sum;
    }

    /// False if stopped meanwhile.
    Result<bool> warm_up() {
        double before = 0;
        for (int tries = 0; tries < 8; ++tries) {
            std::vector<double> three;
            for (int i = 0; i < 3; ++i) {
                if (options_.progress && !options_.progress({0, options_.rounds, before, {}, {}})) return false;
                auto ms = sample(false);
                if (!ms) return tl::unexpected(ms.error());
                three.push_back(*ms);
            }
            const double now = median(three);
            if (tries > 0 && std::abs(now - before) <= 0.1 * std::max(now, before)) break;
            before = now;
        }
        return true;
    }

    Result<Measurement> finish(bool stopped) {
        RenderOptions o;
        o.fencedSamples = 0;
        o.count = true;
        o.picture = false;
        o.thumbnails = {"final"};
        o.thumbnailWidth = 176;
        o.thumbnailHeight = std::max(1, 176 * view_.height / std::max(1, view_.width));
        auto record = session_.render(scene_, setup_, view_, o);
        if (!record) return tl::unexpected(record.error());
        for (std::size_t i = 0; i < result_.passes.size(); ++i) {
            if (i < record->passes.size()) result_.passes[i].work = record->passes[i].work;
        }
        summarise(result_, wholeMs_, options_.seed);
        result_.width = record->width;
        result_.height = record->height;
        result_.droppedLights = record->droppedLights;
        result_.droppedObjects = record->droppedObjects;
        result_.lightsInView = record->lightsInView;
        result_.lightsInScene = record->lightsInScene;
        result_.stopped = stopped;
        result_.ev100 = hand_ev100(exposed_as(setup_, record->told));
        if (const auto it = record->thumbnails.find("final"); it != record->thumbnails.end())
            result_.thumbnail = it->second;
        return result_;
    }

    double estimate() const { return median(result_.frameMs); }
    const Measurement& so_far() const { return result_; }

private:
    RenderSession& session_;
    const Scene& scene_;
    const Setup& setup_;
    const View& view_;
    const MeasureOptions& options_;
    int injected_;
    bool main_; // A, or the only one
    Measurement result_;
    std::vector<double> wholeMs_;
};

constexpr int firstLook = 8, lookEvery = 4; // rounds
bool look(int rounds) {
    return rounds >= firstLook && rounds % lookEvery == 0;
}
/// Draws of the running intervals: they are looked at, not reported.
constexpr int quickDraws = 400;

bool precise(const Interval& i, double precision) {
    return precision > 0 && i.median > 0 && 0.5 * (i.high - i.low) <= precision * i.median;
}

std::vector<double> log_ratios(const std::vector<double>& a, const std::vector<double>& b) {
    std::vector<double> out;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        if (a[i] > 0 && b[i] > 0) out.push_back(std::log(b[i] / a[i]));
    return out;
}

Error stopped_early() {
    return {"the measurement was stopped before its first round", "", "Nothing was kept; start it again."};
}

} // namespace

Measurement measurement_of(const std::vector<RoundSample>& rounds, std::uint32_t seed) {
    Measurement m;
    std::vector<double> whole;
    for (const RoundSample& r : rounds) {
        if (m.passes.empty()) {
            for (const auto& p : r.passes)
                m.passes.push_back({p.name, p.family, {}, {}});
            m.passMs.resize(r.passes.size());
        }
        double sum = 0;
        for (std::size_t i = 0; i < r.passes.size() && i < m.passMs.size(); ++i) {
            m.passMs[i].push_back(r.passes[i].ms);
            sum += r.passes[i].ms;
        }
        m.frameMs.push_back(sum);
        whole.push_back(r.wholeMs);
        m.clock = r.clock;
    }
    summarise(m, whole, seed);
    return m;
}

Result<Measurement> measure(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                            const MeasureOptions& options) {
    Subject subject(session, scene, setup, view, options);
    auto warm = subject.warm_up();
    if (!warm) return tl::unexpected(warm.error());
    bool stopped = !*warm;
    for (int round = 0; round < options.rounds && !stopped; ++round) {
        const Interval frame = bootstrap_median(subject.so_far().frameMs, options.seed, quickDraws);
        if (look(round) && precise(frame, options.precision)) break;
        if (options.progress && !options.progress({round + 1, options.rounds, subject.estimate(), {}, frame})) {
            stopped = true;
            break;
        }
        if (auto ms = subject.sample(true); !ms) return tl::unexpected(ms.error());
    }
    if (subject.so_far().frameMs.empty()) return tl::unexpected(stopped_early());
    return subject.finish(stopped);
}

Result<PairedMeasurement> measure_paired(RenderSession& session, const Scene& scene, const Setup& a, const Setup& b,
                                         const View& view, const MeasureOptions& options) {
    return measure_paired(session, scene, a, scene, b, view, options);
}

Result<PairedMeasurement> measure_paired(RenderSession& session, const Scene& sceneA, const Setup& a,
                                         const Scene& sceneB, const Setup& b, const View& view,
                                         const MeasureOptions& options) {
    Subject first(session, sceneA, a, view, options),
        second(session, sceneB, b, view, options, options.injectedInB, false);
    bool stopped = false;
    for (Subject* s : {&first, &second}) {
        auto warm = s->warm_up();
        if (!warm) return tl::unexpected(warm.error());
        stopped = stopped || !*warm;
    }
    std::mt19937 random(options.seed);
    bool swapped = false;
    for (int round = 0; round < options.rounds && !stopped; ++round) {
        Interval ratio;
        if (round >= 2) {
            const std::vector<double> logs = log_ratios(first.so_far().frameMs, second.so_far().frameMs);
            const auto in_ratios = [](Interval i) {
                return Interval{std::exp(i.median), std::exp(i.low), std::exp(i.high)};
            };
            ratio = in_ratios(bootstrap_median(logs, options.seed, quickDraws));
            if (look(round)) {
                const Interval strict = in_ratios(bootstrap_median(logs, options.seed, 4000, 0.998));
                if (precise(ratio, options.precision) ||
                    (options.untilClear && sign_test(logs) <= 0.008 && (strict.high < 1 || strict.low > 1)))
                    break;
            }
        }
        if (options.progress &&
            !options.progress({round + 1, options.rounds, first.estimate(), ratio,
                               bootstrap_median(first.so_far().frameMs, options.seed, quickDraws)})) {
            stopped = true;
            break;
        }
        swapped = round % 2 == 0 ? (random() & 1u) != 0 : !swapped;
        for (Subject* s : {swapped ? &second : &first, swapped ? &first : &second})
            if (auto ms = s->sample(true); !ms) return tl::unexpected(ms.error());
    }
    if (first.so_far().frameMs.empty()) return tl::unexpected(stopped_early());
    auto ra = first.finish(stopped), rb = second.finish(stopped);
    if (!ra) return tl::unexpected(ra.error());
    if (!rb) return tl::unexpected(rb.error());
    PairedMeasurement out{std::move(*ra), std::move(*rb), {}, {}};
    out.frame = compare_paired(out.a.frameMs, out.b.frameMs, options.seed);
    for (std::size_t i = 0; i < out.a.passes.size(); ++i)
        for (std::size_t k = 0; k < out.b.passes.size(); ++k)
            if (out.a.passes[i].name == out.b.passes[k].name)
                out.passes.push_back(
                    {out.a.passes[i].name, compare_paired(out.a.passMs[i], out.b.passMs[k], options.seed)});
    std::vector<double> p;
    for (const PassComparison& c : out.passes)
        p.push_back(c.comparison.p);
    const std::vector<bool> rejected = holm(p);
    for (std::size_t i = 0; i < p.size(); ++i)
        if (!rejected[i]) out.passes[i].comparison.verdict = Verdict::notShown;
    return out;
}

FrameHistory medians_of(const Measurement& m) {
    FrameHistory history(std::max<std::size_t>(1, m.frameMs.size()));
    FrameRecord record;
    for (std::size_t i = 0; i < m.passes.size() && i < m.passMs.size(); ++i)
        record.passes.push_back({m.passes[i].name, m.passes[i].family, m.passMs[i], m.passes[i].work, true});
    history.add(record);
    return history;
}

} // namespace mirolux
