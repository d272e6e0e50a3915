#pragma once
#include <cstdint>
#include <map>
#include <string>
#include <vector>

namespace mirolux {

/// A kind of exact work that a technique counts: the same number on every run of a request, on every device.
struct Counter {
    std::string name;    // camelCase, as in JSON and CSV; shaders know it as COUNTER_<name>
    std::string label;   // as the bench shows it
    std::string meaning; // one line
};

/// Every counter of every technique, in frame order.
const std::vector<Counter>& all_counters();

/// Counted work of a pass, of all eyes. A counter that is not there is 0; names that no technique of this build
/// declares (of an older logbook, say) are kept.
struct Work {
    std::map<std::string, std::uint64_t> counts; // never holds a 0

    std::uint64_t at(const std::string& name) const {
        const auto it = counts.find(name);
        return it == counts.end() ? 0 : it->second;
    }
    void set(const std::string& name, std::uint64_t value) {
        if (value == 0)
            counts.erase(name);
        else
            counts[name] = value;
    }
    void add(const std::string& name, std::uint64_t value) { set(name, at(name) + value); }
    /// Draws and triangles, which are known before anything is drawn.
    static Work drawing(std::uint64_t draws, std::uint64_t triangles) {
        Work w;
        w.set("draws", draws);
        w.set("triangles", triangles);
        return w;
    }

    bool operator==(const Work&) const = default;
};

inline Work& operator+=(Work& a, const Work& b) {
    for (const auto& [name, value] : b.counts)
        a.add(name, value);
    return a;
}

} // namespace mirolux
