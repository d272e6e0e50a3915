#pragma once
#include "core/cost/measure.h"
#include <nlohmann/json.hpp>

namespace mirolux {

nlohmann::json to_json(const Measurement& measurement);
nlohmann::json to_json(const Comparison& comparison);

} // namespace mirolux
