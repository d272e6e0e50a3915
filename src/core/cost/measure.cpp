#include "core/cost/measure.h"
#include <algorithm>
#include <cmath>
#include <random>

namespace mirolux {

namespace {

/// One setup under measurement: takes samples and sums them up.
class Subject {
public:
    Subject(RenderSession& session, const Scene& scene, const Setup& setup, const View& view, const MeasureOptions& options)
        : session_(session), scene_(scene), setup_(setup), view_(view), options_(options) {}

    Result<double> sample(bool keep) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 1;
        o.wholeSamples = 1;
        o.gpuClock = options_.gpuClock;
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
        }
        return sum;
    }

    /// False if stopped meanwhile.
    Result<bool> warm_up() {
        double before = 0;
        for (int tries = 0; tries < 8; ++tries) {
            std::vector<double> three;
            for (int i = 0; i < 3; ++i) {
                if (options_.progress && !options_.progress({0, options_.rounds, before})) return false;
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
            result_.passes[i].ms = bootstrap_median(result_.passMs[i], options_.seed);
        }
        result_.frame = bootstrap_median(result_.frameMs, options_.seed);
        result_.whole = bootstrap_median(wholeMs_, options_.seed);
        result_.p95 = quantile(result_.frameMs, 0.95);
        result_.p99 = quantile(result_.frameMs, 0.99);
        result_.worst = quantile(result_.frameMs, 1.0);
        result_.rounds = static_cast<int>(result_.frameMs.size());
        result_.width = record->width;
        result_.height = record->height;
        result_.droppedLights = record->droppedLights;
        result_.droppedObjects = record->droppedObjects;
        result_.lightsInView = record->lightsInView;
        result_.lightsInScene = record->lightsInScene;
        result_.stopped = stopped;
        if (const auto it = record->thumbnails.find("final"); it != record->thumbnails.end()) result_.thumbnail = it->second;
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
    Measurement result_;
    std::vector<double> wholeMs_;
};

Error stopped_early() { return {"the measurement was stopped before its first round", "", "Nothing was kept; start it again."}; }

} // namespace

Result<Measurement> measure(RenderSession& session, const Scene& scene, const Setup& setup, const View& view, const MeasureOptions& options) {
    Subject subject(session, scene, setup, view, options);
    auto warm = subject.warm_up();
    if (!warm) return tl::unexpected(warm.error());
    bool stopped = !*warm;
    for (int round = 0; round < options.rounds && !stopped; ++round) {
        if (options.progress && !options.progress({round + 1, options.rounds, subject.estimate()})) {
            stopped = true;
            break;
        }
        if (auto ms = subject.sample(true); !ms) return tl::unexpected(ms.error());
    }
    if (subject.so_far().frameMs.empty()) return tl::unexpected(stopped_early());
    return subject.finish(stopped);
}

Result<PairedMeasurement> measure_paired(RenderSession& session, const Scene& scene, const Setup& a, const Setup& b, const View& view, const MeasureOptions& options) {
    Subject first(session, scene, a, view, options), second(session, scene, b, view, options);
    bool stopped = false;
    for (Subject* s : {&first, &second}) {
        auto warm = s->warm_up();
        if (!warm) return tl::unexpected(warm.error());
        stopped = stopped || !*warm;
    }
    std::mt19937 random(options.seed);
    bool swapped = false;
    for (int round = 0; round < options.rounds && !stopped; ++round) {
        if (options.progress && !options.progress({round + 1, options.rounds, first.estimate()})) {
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
                out.passes.push_back({out.a.passes[i].name, compare_paired(out.a.passMs[i], out.b.passMs[k], options.seed)});
    return out;
}

} // namespace mirolux
