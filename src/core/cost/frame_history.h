#pragma once
#include "core/cost/frame_record.h"
#include "core/cost/statistics.h"
#include <deque>

namespace mirolux {

/// The last N frames of one state: what the tape shows. A change of state empties it, so that no median mixes two.
class FrameHistory {
public:
    explicit FrameHistory(std::size_t keep = 9) : keep_(keep) {}

    struct PassCost {
        std::string name, family;
        double median = 0, low = 0, high = 0; // ms; low and high are the quartiles
        Work work;
        bool counted = false;
    };

    void clear();
    /// Takes a record's samples; its work counters replace those known.
    void add(const FrameRecord& record);
    /// Forgets a first frame that was not warm; the next one takes its place.
    void forget_cold();
    std::size_t frames() const { return sums_.size(); }
    const std::vector<PassCost>& passes() const { return passes_; }
    PassCost frame() const;      // sum of the passes, frame by frame
    double drawn() const;        // sum of the passes' medians, ms: the length of a tape
    double whole_median() const; // unfenced, ms; 0 if none

private:
    std::size_t keep_;
    std::vector<PassCost> passes_;
    std::vector<std::deque<double>> samples_;
    std::deque<double> sums_, whole_;
};

} // namespace mirolux
