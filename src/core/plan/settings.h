#pragma once
#include "core/base/error.h"
#include "core/technique/setting.h"
#include <nlohmann/json.hpp>

namespace mirolux {

/// Every setting of every technique, in frame order.
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

    /// Of the scene that it is for: settings of other stages mean nothing.
    Stage stage = Stage::solid;

    bool operator==(const Setup&) const = default;

private:
    std::vector<Value> values_; // parallel to all_settings()
};

bool applies(const std::vector<Condition>& when, const Setup& setup);
/// True if the setting means anything under this setup: all of its conditions hold, or one of the others.
bool applies(const Setting& setting, const Setup& setup);
/// Settings that differ from the default, as one object of key: value, and "stage" of one that is not Solid.
nlohmann::json to_json(const Setup& setup);
/// Every setting, default or not: what is kept for good, so that a default that changes does not rewrite history.
nlohmann::json to_json_whole(const Setup& setup);
/// "Lights per object 8 -> 16", one line for each setting that differs.
std::vector<std::string> differences(const Setup& from, const Setup& to);
/// The settings' reference page (docs/settings.md).
std::string settings_markdown();

} // namespace mirolux
