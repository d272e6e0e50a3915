#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/cost/walk.h"
#include "core/io/wire.h"
#include "core/visibility/rooms.h"
#include <map>

namespace mirolux {

using nlohmann::json;

namespace {

/// Frame times of a walk's places; empty: the document is none.
std::vector<double> times_of(const json& document) {
    std::vector<double> out;
    if (document.is_object() && document.contains("points") && document["points"].is_array())
        for (const json& p : document["points"])
            if (p.is_object() && p.contains("frameMs") && p["frameMs"].is_number())
                out.push_back(p["frameMs"].get<double>());
    return out;
}

/// None where it names a setting that this build does not have.
std::optional<Setup> setup_in(const json& document) {
    if (!document.is_object() || !document.contains("setup") || !document["setup"].is_object()) return std::nullopt;
    Setup out;
    for (const auto& [key, value] : document["setup"].items())
        if (key != "stage" && !out.set_json(key, value)) return std::nullopt;
    return out;
}

std::map<std::string, double> doors_in(const json& document) {
    std::map<std::string, double> out;
    if (document.is_object() && document.contains("doors") && document["doors"].is_object())
        for (const auto& [name, open] : document["doors"].items())
            if (open.is_number()) out[name] = open.get<double>();
    return out;
}

std::string standing(double open) {
    return open < 1e-3 ? "closed" : open > 0.999 ? "open" : number_text(100 * open, 3) + " % open";
}

template <class List>
std::string digest_of(const List& list) {
    Digest d;
    for (const auto& one : list) {
        const std::string text = to_json(one).dump();
        d.add(text.data(), text.size());
    }
    return d.hex();
}

} // namespace

void keep_circumstances(json& document, const Setup& setup, const Scene& scene) {
    document["setup"] = to_json(setup);
    json doors = json::object();
    for (const Door& d : scene.doors)
        doors[d.name] = std::round(1000 * open_share(scene, d)) / 1000;
    document["doors"] = std::move(doors);
    document["lights"] = digest_of(scene.lights);
    document["objects"] = digest_of(scene.placed ? scene.placed->edits : EditList());
}

std::string step_between(const json& before, const json& after) {
    const std::optional<Setup> a = setup_in(before), b = setup_in(after);
    if (!a || !b) return {};
    std::vector<std::string> out;
    std::map<std::string, std::vector<std::string>> doors; // by how they stand now
    const std::map<std::string, double> stood = doors_in(before);
    for (const auto& [name, open] : doors_in(after))
        if (const auto it = stood.find(name); it != stood.end() && it->second != open)
            doors[standing(open)].push_back(name);
    for (const auto& [how, names] : doors)
        out.push_back((names.size() > 3 ? std::to_string(names.size()) + " doors" : joined(names)) + " " + how);
    // A leaf that moves is an edit too: it is named as its door already.
    const auto changed = [&](const char* what) { return before.value(what, json()) != after.value(what, json()); };
    if (changed("objects") && doors.empty()) out.push_back("objects changed");
    if (changed("lights")) out.push_back("lights changed");
    for (const std::string& d : differences(*a, *b))
        out.push_back(d);
    return joined(out, "; ");
}

std::optional<WalkStep> gain_of(const json& before, const json& after) {
    const std::vector<double> a = times_of(before), b = times_of(after);
    if (a.size() < 3 || a.size() != b.size() || before.value("walk", json()) != after.value("walk", json()))
        return std::nullopt;
    const Comparison c = compare_paired(a, b, 1);
    return WalkStep{c.ratio, c.low, c.high, word(c.verdict)};
}

} // namespace mirolux
