#include "core/shadow/still_casters.h"
#include "core/base/text.h"
#include <algorithm>
#include <iterator>

namespace mirolux {

namespace {

/// Objects of which one list says something that the other does not: moved, come or gone.
std::vector<int> changed(const std::vector<CasterState>& a, const std::vector<CasterState>& b) {
    std::vector<int> out;
    std::size_t i = 0, j = 0;
    while (i < a.size() || j < b.size()) {
        if (j == b.size() || (i < a.size() && a[i].object < b[j].object))
            out.push_back(a[i++].object);
        else if (i == a.size() || b[j].object < a[i].object)
            out.push_back(b[j++].object);
        else {
            if (!(a[i] == b[j])) out.push_back(a[i].object);
            ++i, ++j;
        }
    }
    return out;
}

} // namespace

CasterSplit split_casters(const CasterHistory& before, std::uint64_t map, std::vector<CasterState> now) {
    CasterSplit out;
    out.after.map = map;
    if (before.map == map && !before.casters.empty()) {
        const std::vector<int> news = changed(before.casters, now);
        std::set_union(before.moving.begin(), before.moving.end(), news.begin(), news.end(),
                       std::back_inserter(out.moving));
        Digest still;
        std::uint64_t all = 0, moving = 0;
        for (const CasterState& c : now) {
            all += c.triangles;
            if (std::binary_search(out.moving.begin(), out.moving.end(), c.object))
                moving += c.triangles;
            else {
                still.add(&c.object, sizeof c.object);
                still.add(&c.state, sizeof c.state);
            }
        }
        out.apart = !out.moving.empty() && 2 * moving <= all;
        if (out.apart) {
            out.after.still = still.value;
            out.keepsStill = before.still == still.value;
        }
        out.after.moving = out.moving;
    }
    out.after.casters = std::move(now);
    return out;
}

} // namespace mirolux
