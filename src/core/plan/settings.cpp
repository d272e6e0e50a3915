#include "core/plan/settings.h"
#include "core/base/text.h"
#include "core/io/json_cursor.h"
#include "core/technique/technique.h"
#include <cassert>
#include <charconv>
#include <unordered_map>

namespace mirolux {

using nlohmann::json;

const std::vector<Setting>& all_settings() {
    static const std::vector<Setting> settings = [] {
        std::vector<Setting> all;
        for (const Technique* t : all_techniques())
            for (Setting s : t->settings) {
                s.stages = t->stages;
                all.push_back(std::move(s));
            }
        return all;
    }();
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
    case SettingKind::text:
        return "It is a name.";
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
    if (s.kind == SettingKind::choice && std::holds_alternative<bool>(value)) // what was a switch in older files
        taken = std::string(std::get<bool>(value) ? "on" : "off");
    for (const auto& [before, now] : s.renamed)
        if (taken == Value(before)) taken = now;
    if (taken.index() != s.standard.index()) return wrong();
    if (s.kind == SettingKind::whole && (std::get<int>(taken) < s.low || std::get<int>(taken) > s.high)) return wrong();
    if (s.kind == SettingKind::number && !(std::get<double>(taken) >= s.low && std::get<double>(taken) <= s.high))
        return wrong();
    if (s.kind == SettingKind::text && std::get<std::string>(taken).size() > 200) return wrong();
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
        if (kind == SettingKind::choice || kind == SettingKind::text)
            return set(key, json_text(v)); // choices that are numbers, such as a tile of 16
        if (kind == SettingKind::whole && n == std::floor(n) && std::abs(n) < 2e9) return set(key, static_cast<int>(n));
        return set(key, n);
    }
    if (v.is_array() && v.size() == 3 && v[0].is_number() && v[1].is_number() && v[2].is_number())
        return set(key, glm::vec3(v[0].get<float>(), v[1].get<float>(), v[2].get<float>()));
    return set(key,
               v.is_string() ? v.get<std::string>() : json_text(v)); // what is of the wrong kind is refused by its text
}

bool applies(const std::vector<Condition>& when, const Setup& setup) {
    return std::all_of(when.begin(), when.end(), [&](const Condition& c) {
        return std::find(c.words.begin(), c.words.end(), to_text(setup.get(c.key))) != c.words.end();
    });
}
bool applies(const Setting& setting, const Setup& setup) {
    return belongs(setting.stages, setup.stage) &&
           (applies(setting.when, setup) ||
            std::any_of(setting.orWhen.begin(), setting.orWhen.end(),
                        [&](const Condition& c) { return applies(std::vector<Condition>{c}, setup); }));
}

static json stage_json(const Setup& setup) {
    json out = json::object();
    if (setup.stage != Stage::solid) out["stage"] = word(setup.stage);
    return out;
}

json to_json_whole(const Setup& setup) {
    json out = stage_json(setup);
    for (std::size_t i = 0; i < all_settings().size(); ++i)
        out[all_settings()[i].key] = to_json_value(setup.at(i));
    return out;
}

json to_json(const Setup& setup) {
    json out = stage_json(setup);
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
    std::string text = "# Settings\n\nWritten by `mirolux-cli settings --markdown` from what the techniques declare "
                       "(`src/core/technique/all.def` lists them).\n\n"
                       "| key | label | station | range or choices | default | means something when | help |\n"
                       "|---|---|---|---|---|---|---|\n";
    for (const Setting& s : all_settings()) {
        std::string range = s.kind == SettingKind::toggle   ? "on, off"
                            : s.kind == SettingKind::choice ? joined(s.choices)
                            : s.kind == SettingKind::text   ? "a name"
                            : s.kind == SettingKind::color  ? "r,g,b 0 to " + number_text(s.high)
                                                            : number_text(s.low) + " to " + number_text(s.high);
        if (!s.unit.empty()) range += " " + s.unit;
        std::string when = s.stages == Stages::flat ? "the stage is Flat" : "";
        for (const Condition& c : s.when)
            when += (when.empty() ? "`" : ", `") + c.key + "` is " + joined(c.words, " or ");
        for (const Condition& c : s.orWhen)
            when += ", or `" + c.key + "` is " + joined(c.words, " or ");
        text += "| `" + s.key + "` | " + s.label + " | " + s.station + " | " + range + " | " + to_text(s.standard) +
                " | " + when + " | " + s.help + " |\n";
    }
    return text;
}

} // namespace mirolux
