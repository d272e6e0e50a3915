#pragma once
#include "core/scene/stage.h"
#include <glm/glm.hpp>
#include <string>
#include <variant>
#include <vector>

namespace mirolux {

/// A setting's value. Choices are held as their word, texts (names of things in the scene) as they are; colours as
/// scene-linear Rec. 709.
using Value = std::variant<bool, int, double, std::string, glm::vec3>;

enum class SettingKind { toggle, whole, number, choice, color, text };

/// Holds if the setting `key` has one of `words` as its value ("on" and "off" for toggles).
struct Condition {
    std::string key;
    std::vector<std::string> words;
};

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
    std::vector<Condition> when;      // all must hold for the setting to mean anything; none: it always does
    std::vector<Condition> orWhen{};  // or any one of these
    Stages stages = Stages::solid;    // of its technique
    std::vector<std::pair<std::string, std::string>> renamed{}; // choices of older files, and what they are called now

    Setting only_when(std::string other, std::vector<std::string> words) && {
        when.push_back({std::move(other), std::move(words)});
        return std::move(*this);
    }
    Setting or_when(std::string other, std::vector<std::string> words) && {
        orWhen.push_back({std::move(other), std::move(words)});
        return std::move(*this);
    }
    Setting once_called(std::string before, std::string now) && {
        renamed.emplace_back(std::move(before), std::move(now));
        return std::move(*this);
    }
    Setting on_ratio() && {
        logarithmic = true;
        return std::move(*this);
    }
};

Setting toggle_setting(std::string key, std::string label, std::string station, bool standard, std::string help);
Setting whole_setting(std::string key, std::string label, std::string station, int standard, int low, int high,
                      std::string unit, std::string help);
Setting number_setting(std::string key, std::string label, std::string station, double standard, double low,
                       double high, std::string unit, std::string help);
Setting choice_setting(std::string key, std::string label, std::string station, std::vector<std::string> choices,
                       std::string standard, std::string help);
/// A name of something in the scene; empty: none is named.
Setting text_setting(std::string key, std::string label, std::string station, std::string standard, std::string help);
/// Each channel from 0 to `high`.
Setting color_setting(std::string key, std::string label, std::string station, glm::vec3 standard, double high,
                      std::string unit, std::string help);

} // namespace mirolux
