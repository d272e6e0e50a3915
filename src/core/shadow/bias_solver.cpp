#include "core/shadow/bias_solver.h"
#include <algorithm>
#include <array>

namespace mirolux {

namespace {

constexpr std::array offsets = {0.0, 0.5, 1.0, 2.0};                            // texels
constexpr std::array slopes = {0.0, 0.5, 1.0, 2.0};                             // texels
constexpr std::array biases = {0.0, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.25}; // metres

class Search {
public:
    Search(double bound, const std::function<Result<ShadowErrors>(const BiasSet&)>& evaluate,
           const std::function<bool(double)>& go_on)
        : bound_(bound), evaluate_(evaluate), go_on_(go_on) {}

    /// None: it was stopped, or failed.
    std::optional<BiasPoint> at(const BiasSet& set) {
        for (const BiasPoint& p : out.points)
            if (p.set == set) return p;
        if (go_on_ && !go_on_(share)) return std::nullopt;
        auto errors = evaluate_(set);
        if (!errors) {
            trouble = errors.error();
            return std::nullopt;
        }
        out.points.push_back({set, errors->missed(), errors->falsely()});
        return out.points.back();
    }

    bool better(const BiasPoint& a, const BiasPoint& b) const {
        const bool aUnder = a.falsely <= bound_, bUnder = b.falsely <= bound_;
        if (aUnder != bUnder) return aUnder;
        return aUnder ? a.missed < b.missed : a.falsely < b.falsely;
    }

    /// The least bias under the bound for one offset and slope.
    bool bisect(double offset, double slope) {
        const auto try_at = [&](std::size_t i) { return at({biases[i], slope, offset}); };
        auto low = try_at(0);
        if (!low) return false;
        if (low->falsely <= bound_) return true;                      // none is needed
        if (out.under && low->missed >= out.best.missed) return true; // more bias misses no less
        std::size_t under = biases.size() - 1, over = 0;
        auto high = try_at(under);
        if (!high) return false;
        if (high->falsely > bound_) return true;
        while (under - over > 1) {
            const std::size_t middle = (under + over) / 2;
            auto p = try_at(middle);
            if (!p) return false;
            (p->falsely <= bound_ ? under : over) = middle;
        }
        return true;
    }

    void take_best() {
        for (const BiasPoint& p : out.points)
            if (better(p, out.best)) out.best = p;
        out.under = out.best.falsely <= bound_;
    }

    BiasSolution out;
    std::optional<Error> trouble;
    double share = 0;

private:
    const double bound_;
    const std::function<Result<ShadowErrors>(const BiasSet&)>& evaluate_;
    const std::function<bool(double)>& go_on_;
};

std::vector<BiasPoint> front_of(std::vector<BiasPoint> points) {
    std::sort(points.begin(), points.end(), [](const BiasPoint& a, const BiasPoint& b) {
        return a.falsely != b.falsely ? a.falsely < b.falsely : a.missed < b.missed;
    });
    std::vector<BiasPoint> out;
    for (const BiasPoint& p : points)
        if (out.empty() || p.missed < out.back().missed) out.push_back(p);
    return out;
}

} // namespace

Result<BiasSolution> solve_bias(const BiasSet& present, double bound,
                                const std::function<Result<ShadowErrors>(const BiasSet&)>& evaluate,
                                const std::function<bool(double)>& go_on) {
    Search search(bound, evaluate, go_on);
    const auto before = search.at(present);
    if (!before && search.trouble) return tl::unexpected(*search.trouble);
    if (!before) return fail("the search was stopped before it began", "bias", "");
    search.out.before = search.out.best = *before;
    search.take_best();
    double step = 0;
    for (const double offset : offsets)
        for (const double slope : slopes) {
            search.share = step++ / double(offsets.size() * slopes.size());
            const bool goes_on = search.bisect(offset, slope);
            search.take_best();
            if (search.trouble) return tl::unexpected(*search.trouble);
            if (!goes_on) break;
        }
    search.out.front = front_of(search.out.points);
    return std::move(search.out);
}

} // namespace mirolux
