#pragma once
#include "core/base/error.h"
#include <glm/glm.hpp>
#include <nlohmann/json.hpp>
#include <string>
#include <variant>
#include <vector>

namespace mirolux {

/// A setting's value. Choices are held as their word; colours as scene-linear Rec. 709.
using Value = std::variant<bool, int, double, std::string, glm::vec3>;

enum class SettingKind { toggle, whole, number, choice, color };

/// One declaration of one choice that a user has: the project file, --set, the bench's editor, the docs page and the
/// logbook's words come from it.
struct Setting {
    std::string key;     // dotted, camelCase after the dot
    std::string label;   // as the bench shows it
    std::string station; // the step of the work that it belongs to
    SettingKind kind;
    Value standard;                   // default
    double low = 0.0, high = 0.0;     // range of whole and number; of each channel for color
    std::string unit;                 // may be empty
    std::vector<std::string> choices; // of kind choice
    std::string help;                 // one line: what it does to picture and cost
    bool logarithmic = false;         // editors scrub by ratio
};

/// Every setting, in the order of the work.
const std::vector<Setting>& all_settings();
/// Index into all_settings(), or -1.
int setting_index(const std::string& key);

std::string to_text(const Value& value);
nlohmann::json to_json_value(const Value& value);

/// How a scene is lit and rendered: a value for every setting.
class Setup {
public:
    Setup(); // all defaults

    bool flag(const std::string& key) const { return std::get<bool>(get(key)); }
    int whole(const std::string& key) const { return std::get<int>(get(key)); }
    double number(const std::string& key) const { return std::get<double>(get(key)); }
    const std::string& choice(const std::string& key) const { return std::get<std::string>(get(key)); }
    const glm::vec3& color(const std::string& key) const { return std::get<glm::vec3>(get(key)); }
    const Value& get(const std::string& key) const; // an unknown key is our own mistake
    const Value& at(std::size_t index) const { return values_[index]; }

    /// Errors: unknown key (the nearest ones are named), value of the wrong kind or out of range (its range is named).
    Result<void> set(const std::string& key, const Value& value);
    /// From the text of --set: numbers, true/false/on/off, a choice's word, r,g,b.
    Result<void> set_text(const std::string& key, const std::string& text);
    Result<void> set_json(const std::string& key, const nlohmann::json& value);

    bool operator==(const Setup&) const = default;

private:
    std::vector<Value> values_; // parallel to all_settings()
};

/// Settings that differ from the default, as one object of key: value.
nlohmann::json to_json(const Setup& setup);
/// "Lights per object 8 -> 16", one line for each setting that differs.
std::vector<std::string> differences(const Setup& from, const Setup& to);
/// The settings' reference page (docs/settings.md).
std::string settings_markdown();

} // namespace mirolux
