#include "core/cost/frame_history.h"

namespace mirolux {

void FrameHistory::clear() {
    passes_.clear();
    samples_.clear();
    sums_.clear();
    whole_.clear();
}

static void summarise(FrameHistory::PassCost& cost, const std::deque<double>& samples) {
    const std::vector<double> v(samples.begin(), samples.end());
    cost.median = median(v);
    cost.low = quantile(v, 0.25);
    cost.high = quantile(v, 0.75);
}

void FrameHistory::add(const FrameRecord& record) {
    bool same = passes_.size() == record.passes.size();
    for (std::size_t i = 0; same && i < passes_.size(); ++i)
        same = passes_[i].name == record.passes[i].name;
    if (!same) {
        clear();
        for (const PassRecord& p : record.passes)
            passes_.push_back({p.name, p.family, 0, 0, 0, {}, false});
        samples_.resize(passes_.size());
    }
    auto keep = [&](std::deque<double>& list, double v) {
        list.push_back(v);
        while (list.size() > keep_)
            list.pop_front();
    };
    std::size_t frames = record.passes.empty() ? 0 : record.passes.front().ms.size();
    for (const PassRecord& p : record.passes)
        frames = std::min(frames, p.ms.size());
    for (std::size_t f = 0; f < frames; ++f) {
        double sum = 0;
        for (std::size_t i = 0; i < passes_.size(); ++i) {
            keep(samples_[i], record.passes[i].ms[f]);
            sum += record.passes[i].ms[f];
        }
        keep(sums_, sum);
    }
    for (const double w : record.wholeMs)
        keep(whole_, w);
    for (std::size_t i = 0; i < passes_.size(); ++i) {
        summarise(passes_[i], samples_[i]);
        if (record.passes[i].counted || !passes_[i].counted) {
            passes_[i].work = record.passes[i].work;
            passes_[i].counted = record.passes[i].counted;
        }
    }
}

void FrameHistory::forget_cold() {
    for (auto& list : samples_)
        list.clear();
    sums_.clear();
    whole_.clear();
}

double FrameHistory::drawn() const {
    double sum = 0;
    for (const PassCost& p : passes_)
        sum += p.median;
    return sum;
}

FrameHistory::PassCost FrameHistory::frame() const {
    PassCost cost{"frame", "", 0, 0, 0, {}, true};
    summarise(cost, sums_);
    for (const PassCost& p : passes_) {
        cost.work += p.work;
        cost.counted = cost.counted && p.counted;
    }
    return cost;
}

double FrameHistory::whole_median() const {
    return median({whole_.begin(), whole_.end()});
}

} // namespace mirolux
