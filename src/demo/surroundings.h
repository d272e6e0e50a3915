#pragma once
#include "core/image/image.h"

// Pictures of all directions to light scenes with, cd/m2: equirectangular, as `environment.file` reads them.
namespace mirolux::demo {

/// A clear day with the sun's disc in it, widened to 1.2 degrees so that a small picture holds it, as bright as a tenth
/// of the sun's light.
FloatImage clear_day(int width);
/// A day without shadows (the overcast sky of P. Moon and D. Spencer, 1942), over pale ground.
FloatImage overcast_day(int width);
/// A plain room at night: warm lamps under the ceiling, a blue window.
FloatImage lamp_room(int width);

inline constexpr const char* clear_day_file = "clear-day.hdr";
inline constexpr const char* overcast_file = "overcast.hdr";
inline constexpr const char* lamp_room_file = "lamp-room.hdr";

} // namespace mirolux::demo
