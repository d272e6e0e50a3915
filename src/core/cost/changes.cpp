#include "core/cost/changes.h"
#include "core/base/text.h"
#include <map>

namespace mirolux {

static std::string degrees(float radians) {
    return number_text(glm::degrees(radians), 3) + "\u00b0";
}

static std::vector<std::string> light_changes(const Light& a, const Light& b) {
    std::vector<std::string> out;
    auto say = [&](const std::string& what, const std::string& from, const std::string& to) {
        out.push_back(b.name + ": " + what + " " + from + " \u2192 " + to);
    };
    if (a.name != b.name) out.push_back(a.name + " renamed " + b.name);
    if (a.enabled != b.enabled) out.push_back(b.name + (b.enabled ? " switched on" : " switched off"));
    if (a.type != b.type) say("type", word(a.type), word(b.type));
    if (a.intensity != b.intensity)
        say("intensity", number_text(intensity_in(a, b.unit)) + " " + word(b.unit),
            number_text(intensity_in(b, b.unit)) + " " + word(b.unit));
    if (a.color != b.color || a.kelvin != b.kelvin) {
        if (b.kelvin > 0)
            say("colour", a.kelvin > 0 ? number_text(a.kelvin) + " K" : "its own", number_text(b.kelvin) + " K");
        else
            out.push_back(b.name + ": colour changed");
    }
    if (a.range != b.range)
        say("range", a.range > 0 ? number_text(a.range) + " m" : "unbounded",
            b.range > 0 ? number_text(b.range) + " m" : "unbounded");
    const auto metres = [](float m) { return m > 0 ? number_text(m) + " m" : std::string("the setup's"); };
    if (a.fadeInner != b.fadeInner) say("fade from", metres(a.fadeInner), metres(b.fadeInner));
    if (a.fadeOuter != b.fadeOuter) say("fade to", metres(a.fadeOuter), metres(b.fadeOuter));
    if (a.sourceSize != b.sourceSize) {
        const auto size = [&](float s) {
            return b.type == LightType::directional ? degrees(s) : number_text(s) + " m";
        };
        say("source size", size(a.sourceSize), size(b.sourceSize));
    }
    const auto share = [](float s) { return number_text(100 * s, 3) + " %"; };
    if (a.diffuseShare != b.diffuseShare) say("diffuse part", share(a.diffuseShare), share(b.diffuseShare));
    if (a.specularShare != b.specularShare) say("specular part", share(a.specularShare), share(b.specularShare));
    if (a.mobility != b.mobility) say("baked as", word(a.mobility), word(b.mobility));
    if (a.indirectShare != b.indirectShare) say("bounced light", share(a.indirectShare), share(b.indirectShare));
    if (a.airShare != b.airShare) {
        const auto text = [](std::optional<float> s) { return s ? number_text(*s) : std::string("as all"); };
        say("share in the air", text(a.airShare), text(b.airShare));
    }
    if (a.beam.on != b.beam.on)
        out.push_back(b.name + (b.beam.on ? " with its beam" : " without a beam"));
    else if (a.beam != b.beam)
        out.push_back(b.name + ": beam changed");
    if (a.shadow.mode != b.shadow.mode) say("shadow", word(a.shadow.mode), word(b.shadow.mode));
    if (a.shadow.resolution != b.shadow.resolution) {
        const auto texels = [](int n) { return n > 0 ? std::to_string(n) : std::string("by importance"); };
        say("shadow map", texels(a.shadow.resolution), texels(b.shadow.resolution));
    }
    const auto own = [&](const char* what, std::optional<float> LightShadow::*field, const char* unit) {
        const auto text = [&](std::optional<float> v) { return v ? number_text(*v) + unit : std::string("as all"); };
        if (a.shadow.*field != b.shadow.*field) say(what, text(a.shadow.*field), text(b.shadow.*field));
    };
    own("shadow bias", &LightShadow::bias, " m");
    own("shadow bias by slope", &LightShadow::slopeBias, " texels");
    own("shadow normal offset", &LightShadow::normalOffset, " texels");
    own("shadow near plane", &LightShadow::near, " m");
    own("shadow opacity", &LightShadow::opacity, "");
    if (a.position != b.position)
        out.push_back(b.name + " moved " + number_text(glm::length(b.position - a.position), 3) + " m");
    if (a.direction != b.direction)
        out.push_back(b.name + " aimed " +
                      degrees(std::acos(std::clamp(glm::dot(a.direction, b.direction), -1.0f, 1.0f))) + " away");
    if (a.outerConeAngle != b.outerConeAngle) say("outer cone", degrees(a.outerConeAngle), degrees(b.outerConeAngle));
    if (a.innerConeAngle != b.innerConeAngle) say("inner cone", degrees(a.innerConeAngle), degrees(b.innerConeAngle));
    return out;
}

/// A line each for few objects, and one for all of a kind of change when there are many.
static void object_changes(const std::vector<ObjectEdit>& from, const std::vector<ObjectEdit>& to,
                           std::vector<std::string>& out) {
    std::map<std::string, std::pair<const ObjectEdit*, const ObjectEdit*>> pairs;
    static const ObjectEdit none;
    for (const ObjectEdit& e : from)
        pairs[e.id] = {&e, nullptr};
    for (const ObjectEdit& e : to)
        pairs[e.id].second = &e;
    std::vector<std::string> hidden, shown, back, placed, added, gone, receiving[2], casting[std::size(all_castings)];
    for (const auto& [id, pair] : pairs) {
        const ObjectEdit &a = pair.first ? *pair.first : none, &b = pair.second ? *pair.second : none;
        const std::string& name = pair.second ? b.name : a.name;
        if (a.proxy || b.proxy) {
            if (!pair.first) added.push_back(name);
            if (!pair.second) gone.push_back(name);
            if (!pair.first || !pair.second) continue;
        }
        if (a.receives != b.receives) receiving[b.receives].push_back(name);
        if (a.casts != b.casts) casting[static_cast<int>(b.casts)].push_back(name);
        if (a.hidden != b.hidden) (b.hidden ? hidden : shown).push_back(name);
        const auto stands_as = [&b](const ObjectEdit& e) {
            return e.translation == b.translation && e.rotation == b.rotation && e.scale == b.scale;
        };
        if (stands_as(a)) continue;
        const bool asInFile = stands_as(none);
        (asInFile ? back : placed)
            .push_back(asInFile || a.translation == b.translation
                           ? name
                           : name + " " + number_text(glm::length(b.translation - a.translation), 3) + " m");
    }
    const auto say = [&](const std::vector<std::string>& names, const char* what) {
        if (names.empty()) return;
        std::string text = joined(std::vector<std::string>(
            names.begin(), names.begin() + static_cast<long>(std::min<std::size_t>(names.size(), 3))));
        if (names.size() > 3) text += " and " + std::to_string(names.size() - 3) + " more";
        out.push_back(text + " " + what);
    };
    say(placed, "placed anew");
    say(back, "put back");
    say(hidden, "hidden");
    say(shown, "shown again");
    say(casting[static_cast<int>(Casting::yes)], "casting shadows again");
    say(casting[static_cast<int>(Casting::no)], "casting no shadows");
    say(casting[static_cast<int>(Casting::unseen)], "unseen, casting shadows");
    say(casting[static_cast<int>(Casting::front)], "casting from the front only");
    say(casting[static_cast<int>(Casting::proxied)], "casting by proxies");
    say(receiving[1], "receiving shadows again");
    say(receiving[0], "receiving no shadows");
    say(added, "added");
    say(gone, "deleted");
}

/// Of things with an id and a name: which were added, changed or deleted.
template <class T>
static void named_changes(const std::vector<T>& from, const std::vector<T>& to, std::vector<std::string>& out) {
    const auto in = [](const std::vector<T>& list, int id) {
        return std::find_if(list.begin(), list.end(), [id](const T& t) { return t.id == id; });
    };
    for (const T& t : to)
        if (const auto it = in(from, t.id); it == from.end())
            out.push_back(t.name + " added");
        else if (!(*it == t))
            out.push_back(t.name + (it->enabled == t.enabled ? " changed" : t.enabled ? " on" : " off"));
    for (const T& t : from)
        if (in(to, t.id) == to.end()) out.push_back(t.name + " deleted");
}

std::vector<std::string> describe_changes(const State& from, const State& to) {
    std::vector<std::string> out = differences(from.setup, to.setup);
    for (const auto& [key, value] : to.unknown)
        if (const auto it = from.unknown.find(key); it == from.unknown.end() || it->second != value)
            out.push_back("unknown setting " + key + " " + value);
    std::map<int, const Light*> before;
    for (const Light& l : from.lights)
        before[l.id] = &l;
    for (const Light& l : to.lights) {
        const auto it = before.find(l.id);
        if (it == before.end())
            out.push_back(l.name + " added");
        else {
            const auto changes = light_changes(*it->second, l);
            out.insert(out.end(), changes.begin(), changes.end());
            before.erase(it);
        }
    }
    for (const auto& [id, l] : before)
        out.push_back(l->name + " deleted");
    object_changes(from.objects, to.objects, out);
    named_changes(from.volumes, to.volumes, out);
    named_changes(from.cheapLights, to.cheapLights, out);
    named_changes(from.probes, to.probes, out);
    if (from.view.width != to.view.width || from.view.height != to.view.height)
        out.push_back("picture " + std::to_string(from.view.width) + "x" + std::to_string(from.view.height) +
                      " \u2192 " + std::to_string(to.view.width) + "x" + std::to_string(to.view.height));
    if (from.view.stereo != to.view.stereo)
        out.push_back(std::string("stereo ") + word(from.view.stereo) + " \u2192 " + word(to.view.stereo));
    if (!(from.view.camera == to.view.camera)) {
        Camera a = from.view.camera;
        a.name = to.view.camera.name;
        if (!(a == to.view.camera))
            out.push_back("camera moved " + number_text(glm::length(to.view.camera.eye - from.view.camera.eye), 3) +
                          " m");
    }
    if (from.view.seconds != to.view.seconds)
        out.push_back("scene time " + number_text(from.view.seconds) + " s \u2192 " + number_text(to.view.seconds) +
                      " s");
    return out;
}

} // namespace mirolux
