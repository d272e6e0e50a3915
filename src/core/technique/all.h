#pragma once
#include "core/technique/technique.h"

namespace mirolux::technique {

#define MIROLUX_TECHNIQUE(name) const Technique& name();
#define MIROLUX_VALUES(name) const Technique& name();
#include "core/technique/all.def"
#undef MIROLUX_TECHNIQUE
#undef MIROLUX_VALUES

} // namespace mirolux::technique
