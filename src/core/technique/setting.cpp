#include "core/technique/setting.h"

namespace mirolux {

const char* word(Stage stage) {
    return stage == Stage::solid ? "solid" : stage == Stage::flat ? "flat" : "blocks";
}

Setting toggle_setting(std::string key, std::string label, std::string station, bool standard, std::string help) {
    return {key, label, station, SettingKind::toggle, standard, 0, 1, "", {}, help, false, {}};
}

Setting whole_setting(std::string key, std::string label, std::string station, int standard, int low, int high,
                      std::string unit, std::string help) {
    return {key, label, station, SettingKind::whole, standard, double(low), double(high), unit, {}, help, false, {}};
}

Setting number_setting(std::string key, std::string label, std::string station, double standard, double low,
                       double high, std::string unit, std::string help) {
    return {key, label, station, SettingKind::number, standard, low, high, unit, {}, help, false, {}};
}

Setting choice_setting(std::string key, std::string label, std::string station, std::vector<std::string> choices,
                       std::string standard, std::string help) {
    return {key, label, station, SettingKind::choice, standard, 0, 0, "", choices, help, false, {}};
}

Setting text_setting(std::string key, std::string label, std::string station, std::string standard, std::string help) {
    return {key, label, station, SettingKind::text, standard, 0, 0, "", {}, help, false, {}};
}

Setting color_setting(std::string key, std::string label, std::string station, glm::vec3 standard, double high,
                      std::string unit, std::string help) {
    return {key, label, station, SettingKind::color, standard, 0, high, unit, {}, help, false, {}};
}

} // namespace mirolux
