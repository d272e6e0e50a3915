#include "core/plan/settings.h"
#include "core/base/text.h"
#include <cassert>
#include <charconv>
#include <unordered_map>

namespace mirolux {

using nlohmann::json;

namespace {

Setting toggle(std::string key, std::string label, std::string station, bool standard, std::string help) {
    return {key, label, station, SettingKind::toggle, standard, 0, 1, "", {}, help};
}
Setting whole(std::string key, std::string label, std::string station, int standard, int low, int high,
              std::string unit, std::string help) {
    return {key, label, station, SettingKind::whole, standard, double(low), double(high), unit, {}, help};
}
Setting number(std::string key, std::string label, std::string station, double standard, double low, double high,
               std::string unit, std::string help, bool logarithmic = false) {
    return {key, label, station, SettingKind::number, standard, low, high, unit, {}, help, logarithmic};
}
Setting choice(std::string key, std::string label, std::string station, std::vector<std::string> choices,
               std::string standard, std::string help) {
    return {key, label, station, SettingKind::choice, standard, 0, 0, "", choices, help};
}
Setting color(std::string key, std::string label, std::string station, glm::vec3 standard, double high,
              std::string unit, std::string help) {
    return {key, label, station, SettingKind::color, standard, 0, high, unit, {}, help};
}

std::vector<Setting> declare() {
    return {
        choice("path.kind", "Path", "Path",
               {"forward", "additive", "deferred", "volumes", "tiled-deferred", "tiled-forward", "clustered-deferred",
                "clustered-forward"},
               "forward",
               "forward: up to K lights an object; additive: one blended pass a light; deferred: every light for every "
               "pixel; volumes: each light's proxy mesh; tiled, clustered: lists of lights for tiles or depth slices "
               "of tiles."),
        whole("path.maxLights", "Lights an object (K)", "Path", 8, 1, 64, "",
              "forward: lights beyond K are dropped and counted; cost grows with K times fragments."),
        choice("path.choose", "Which K lights", "Path", {"strongest", "nearest"}, "strongest",
               "forward: by largest possible irradiance on the object, or by distance to its bounds."),
        toggle("path.depthPrepass", "Depth pre-pass", "Path", false,
               "Lays depth first, so that hidden fragments are not shaded; draws the geometry twice."),
        choice("path.targetFormat", "Scene target", "Path", {"rgba16f", "rgba32f"}, "rgba16f",
               "Format of the scene-linear target: half floats, or full floats as a reference at twice the bandwidth."),
        choice("gbuffer.packing", "G-buffer", "Path", {"packed", "full"}, "packed",
               "deferred paths: packed holds octahedral 16-bit normals and 8-bit colours in 10 bytes a pixel; full "
               "holds floats in 40, as a reference."),
        choice("volumes.form", "Light volumes", "Path", {"two-step", "one-step"}, "two-step",
               "volumes: two-step marks by stencil the pixels whose surface lies inside the volume, then shades those; "
               "one-step shades what lies before the volume's back: half the draws, more pixels."),
        choice("culling.tile", "Tile", "Path", {"8", "16", "32", "64"}, "16",
               "Pixels on a tile's side: smaller tiles list fewer needless lights and cost more culling."),
        choice("culling.depthBounds", "Depth bounds", "Path", {"off", "min-max", "mask"}, "mask",
               "off: a tile reaches from the eye to infinity; min-max: from its nearest to its farthest sample; mask: "
               "also which 32nds of that hold samples."),
        choice("culling.test", "Bounds test", "Path", {"sphere-planes", "sphere-box"}, "sphere-box",
               "A light's sphere against the tile's sides, then against its near and far planes, or against its "
               "view-space box: tighter where depth is bounded."),
        toggle("culling.coneTest", "Cone test", "Path", true,
               "Spots are also tested as cones against the sphere around the tile's box."),
        whole("culling.listCapacity", "List capacity", "Path", 256, 8, 1024, "lights",
              "Most lights in a list; those that could give least leave first, and are counted."),
        choice("culling.lanes", "Group lanes", "Path", {"auto", "8", "16", "32", "64", "128"}, "auto",
               "Lanes that cull one tile together: same lists, other cost. auto: 64, or 8 on a software device, which "
               "runs 8 at once."),
        whole("cluster.slices", "Cluster slices", "Path", 24, 2, 64, "",
              "clustered: depth slices, exponential between near and far."),
        number("cluster.near", "Cluster near", "Path", 0.5, 0.01, 100.0, "m",
               "clustered: where the exponential slices begin; nearer samples go to the first.", true),
        number("cluster.far", "Cluster far", "Path", 120.0, 1.0, 10000.0, "m",
               "clustered: where they end; farther samples go to the last.", true),
        number("cluster.exponent", "Cluster exponent", "Path", 1.0, 0.25, 4.0, "",
               "clustered: 1 spaces the slices exponentially; over 1 the near ones are thinner still, under 1 thicker.",
               true),
        choice("transparency.kind", "Transparency", "Path", {"sorted", "peeled"}, "sorted",
               "sorted: blended objects, farthest centre first; peeled: nearest fragments first, layer by layer, right "
               "where surfaces cross or nest, at one draw of them all a layer."),
        whole("transparency.layers", "Peeled layers", "Path", 6, 1, 16, "",
              "peeled: layers of blended surfaces that a pixel can show; nearer ones win. Cost grows with each."),
        choice("shading.model", "Shading model", "Path", {"lambert", "phong", "blinn-phong", "ggx"}, "ggx",
               "What a surface does with light; ggx uses metallic and roughness, the others a fixed exponent."),
        number("shading.exponent", "Exponent", "Path", 48.0, 1.0, 2048.0, "",
               "phong, blinn-phong: sharpness of the highlight.", true),
        toggle("shading.normalised", "Energy-normalised", "Path", true,
               "phong, blinn-phong: scale the lobe so that its energy does not change with the exponent."),
        toggle("shading.normalMaps", "Normal maps", "Path", true,
               "Uses the materials' normal textures; off saves a texture read a fragment."),
        choice("light.window", "Range window", "Lights", {"squared", "unsquared"}, "squared",
               "How irradiance ends at a light's range: clamp(1-(d/r)^4)^2, or without the square as glTF recommends."),
        number("light.threshold", "Reach threshold", "Lights", 0.05, 0.0001, 10.0, "lx",
               "A light without range reaches as far as its irradiance stays over this; smaller reaches farther and "
               "costs more.",
               true),
        number("light.fadeInner", "Fade from", "Lights", 0.0, 0.0, 10000.0, "m",
               "Lights farther from the eye than this begin to fade; only with a distance for the fade's end."),
        number("light.fadeOuter", "Fade to", "Lights", 0.0, 0.0, 10000.0, "m",
               "From here on lights are not rendered and cost nothing; 0: no fade. A light's own distances go before."),
        choice("ambient.kind", "Ambient", "Ambient", {"none", "constant", "gradient"}, "gradient",
               "Light from everywhere: none, one colour, or three colours by the normal's height."),
        color("ambient.constant", "Constant", "Ambient", {0.05f, 0.06f, 0.08f}, 1000.0, "cd/m2",
              "constant: radiance arriving from every direction."),
        color("ambient.top", "Top", "Ambient", {0.045f, 0.062f, 0.100f}, 1000.0, "cd/m2",
              "gradient: radiance on surfaces that face up."),
        color("ambient.side", "Side", "Ambient", {0.040f, 0.046f, 0.060f}, 1000.0, "cd/m2",
              "gradient: radiance on surfaces that face sideways."),
        color("ambient.bottom", "Bottom", "Ambient", {0.018f, 0.016f, 0.014f}, 1000.0, "cd/m2",
              "gradient: radiance on surfaces that face down."),
        number("exposure.ev100", "Exposure", "Finish", 0.0, -8.0, 20.0, "EV100",
               "One step doubles the light that the picture takes for white."),
        choice("tone.curve", "Tone curve", "Finish", {"none", "clamp", "reinhard", "filmic"}, "filmic",
               "From scene-linear to the display's range: none keeps linear values for looking at numbers, clamp cuts, "
               "reinhard and filmic bend."),
        number("tone.white", "White point", "Finish", 4.0, 1.0, 100.0, "",
               "reinhard: the exposed value that becomes white.", true),
        toggle("output.dither", "Ordered dither", "Finish", true,
               "Breaks 8-bit bands with an 8x8 ordered pattern of half a step."),
    };
}

} // namespace

const std::vector<Setting>& all_settings() {
    static const std::vector<Setting> settings = declare();
    return settings;
}

int setting_index(const std::string& key) {
    static const auto index = [] {
        std::unordered_map<std::string, int> map;
        for (std::size_t i = 0; i < all_settings().size(); ++i)
            map[all_settings()[i].key] = static_cast<int>(i);
        return map;
    }();
    const auto it = index.find(key);
    return it == index.end() ? -1 : it->second;
}

std::string to_text(const Value& value) {
    return std::visit(
        [](const auto& v) -> std::string {
            using T = std::decay_t<decltype(v)>;
            if constexpr (std::is_same_v<T, bool>)
                return v ? "on" : "off";
            else if constexpr (std::is_same_v<T, int>)
                return std::to_string(v);
            else if constexpr (std::is_same_v<T, double>)
                return number_text(v);
            else if constexpr (std::is_same_v<T, std::string>)
                return v;
            else
                return number_text(v.x, 3) + "," + number_text(v.y, 3) + "," + number_text(v.z, 3);
        },
        value);
}

json to_json_value(const Value& value) {
    return std::visit(
        [](const auto& v) -> json {
            if constexpr (std::is_same_v<std::decay_t<decltype(v)>, glm::vec3>)
                return json::array({v.x, v.y, v.z});
            else
                return v;
        },
        value);
}

Setup::Setup() {
    for (const Setting& s : all_settings())
        values_.push_back(s.standard);
}

const Value& Setup::get(const std::string& key) const {
    const int i = setting_index(key);
    assert(i >= 0);
    return values_[static_cast<std::size_t>(i)];
}

static std::string range_text(const Setting& s) {
    switch (s.kind) {
    case SettingKind::toggle:
        return "It is on or off.";
    case SettingKind::choice:
        return "It is one of: " + joined(s.choices) + ".";
    case SettingKind::color:
        return "It is r,g,b, each from 0 to " + number_text(s.high) + (s.unit.empty() ? "." : " " + s.unit + ".");
    default:
        return "It goes from " + number_text(s.low) + " to " + number_text(s.high) +
               (s.unit.empty() ? "." : " " + s.unit + ".");
    }
}

Result<void> Setup::set(const std::string& key, const Value& value) {
    const int i = setting_index(key);
    if (i < 0) {
        std::vector<std::string> keys;
        for (const Setting& s : all_settings())
            keys.push_back(s.key);
        const auto near = nearest_words(key, keys);
        return fail("there is no setting of this name", key,
                    near.empty() ? "mirolux-cli settings lists them all." : "Nearest: " + joined(near) + ".");
    }
    const Setting& s = all_settings()[static_cast<std::size_t>(i)];
    auto wrong = [&] { return fail("cannot be " + to_text(value), key, range_text(s)); };
    Value taken = value;
    if (s.kind == SettingKind::number && std::holds_alternative<int>(value)) taken = double(std::get<int>(value));
    if (taken.index() != s.standard.index()) return wrong();
    if (s.kind == SettingKind::whole && (std::get<int>(taken) < s.low || std::get<int>(taken) > s.high)) return wrong();
    if (s.kind == SettingKind::number && !(std::get<double>(taken) >= s.low && std::get<double>(taken) <= s.high))
        return wrong();
    if (s.kind == SettingKind::choice &&
        std::find(s.choices.begin(), s.choices.end(), std::get<std::string>(taken)) == s.choices.end())
        return wrong();
    if (s.kind == SettingKind::color)
        for (int c = 0; c < 3; ++c)
            if (!(std::get<glm::vec3>(taken)[c] >= 0.0f && std::get<glm::vec3>(taken)[c] <= s.high)) return wrong();
    values_[static_cast<std::size_t>(i)] = taken;
    return {};
}

static bool parse_number(std::string_view text, double& out) {
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), out);
    return ec == std::errc() && end == text.data() + text.size();
}

Result<void> Setup::set_text(const std::string& key, const std::string& text) {
    const int i = setting_index(key);
    if (i < 0) return set(key, text);
    const Setting& s = all_settings()[static_cast<std::size_t>(i)];
    double n = 0.0;
    if (s.kind == SettingKind::toggle) {
        if (text == "on" || text == "true" || text == "1") return set(key, true);
        if (text == "off" || text == "false" || text == "0") return set(key, false);
    } else if (s.kind == SettingKind::whole && parse_number(text, n) && n == std::floor(n) && std::abs(n) < 2e9)
        return set(key, static_cast<int>(n));
    else if (s.kind == SettingKind::number && parse_number(text, n))
        return set(key, n);
    else if (s.kind == SettingKind::color) {
        glm::dvec3 c(0.0);
        const auto a = text.find(','), b = a == std::string::npos ? a : text.find(',', a + 1);
        if (b != std::string::npos && parse_number(std::string_view(text).substr(0, a), c.x) &&
            parse_number(std::string_view(text).substr(a + 1, b - a - 1), c.y) &&
            parse_number(std::string_view(text).substr(b + 1), c.z))
            return set(key, glm::vec3(c));
    }
    return set(key, text);
}

Result<void> Setup::set_json(const std::string& key, const json& v) {
    const int i = setting_index(key);
    const SettingKind kind = i < 0 ? SettingKind::choice : all_settings()[static_cast<std::size_t>(i)].kind;
    if (v.is_boolean()) return set(key, v.get<bool>());
    if (v.is_number()) {
        const double n = v.get<double>();
        if (kind == SettingKind::choice) return set(key, v.dump()); // choices that are numbers, such as a tile of 16
        if (kind == SettingKind::whole && n == std::floor(n) && std::abs(n) < 2e9) return set(key, static_cast<int>(n));
        return set(key, n);
    }
    if (v.is_array() && v.size() == 3 && v[0].is_number() && v[1].is_number() && v[2].is_number())
        return set(key, glm::vec3(v[0].get<float>(), v[1].get<float>(), v[2].get<float>()));
    return set(key,
               v.is_string() ? v.get<std::string>() : v.dump()); // what is of the wrong kind is refused by its text
}

json to_json(const Setup& setup) {
    json out = json::object();
    for (std::size_t i = 0; i < all_settings().size(); ++i)
        if (setup.at(i) != all_settings()[i].standard) out[all_settings()[i].key] = to_json_value(setup.at(i));
    return out;
}

std::vector<std::string> differences(const Setup& from, const Setup& to) {
    std::vector<std::string> out;
    for (std::size_t i = 0; i < all_settings().size(); ++i)
        if (from.at(i) != to.at(i))
            out.push_back(all_settings()[i].label + " " + to_text(from.at(i)) + " \u2192 " + to_text(to.at(i)));
    return out;
}

std::string settings_markdown() {
    std::string text = "# Settings\n\nWritten by `mirolux-cli settings --markdown` from the declarations in "
                       "`src/core/plan/settings.cpp`.\n\n"
                       "| key | label | station | range or choices | default | help |\n|---|---|---|---|---|---|\n";
    for (const Setting& s : all_settings()) {
        std::string range = s.kind == SettingKind::toggle   ? "on, off"
                            : s.kind == SettingKind::choice ? joined(s.choices)
                            : s.kind == SettingKind::color  ? "r,g,b 0 to " + number_text(s.high)
                                                            : number_text(s.low) + " to " + number_text(s.high);
        if (!s.unit.empty()) range += " " + s.unit;
        text += "| `" + s.key + "` | " + s.label + " | " + s.station + " | " + range + " | " + to_text(s.standard) +
                " | " + s.help + " |\n";
    }
    return text;
}

} // namespace mirolux
