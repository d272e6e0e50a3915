#pragma once
#include "core/plan/settings.h"

namespace mirolux {

/// What a path is made of. Only the techniques that are paths, and what looks at their light lists, ask for it; any
/// other technique feeds slots and never asks which path is chosen.
struct PathKind {
    const char* word;
    bool deferred;  // surfaces go through the G-buffer
    bool lists;     // light lists are made on the device
    bool clustered; // of depth slices of tiles
};

const PathKind& path_kind(const Setup& setup);
/// Words of all kinds that satisfy a test, for conditions.
std::vector<std::string> path_words(bool (*test)(const PathKind&));
/// True if shading marches through depth for contact shadows: depth is laid before.
bool marches_contact(const Setup& setup);
/// True if shadows are resolved into a mask of the screen before surfaces are shaded: depth and normals are laid
/// before.
bool masks_shadows(const Setup& setup);
/// True if what stands close in the picture darkens ambient light: depth and normals are laid before.
bool occludes_ambient(const Setup& setup);
/// True if a pass of its own lays depth before surfaces are shaded: asked for, or needed because forward shading takes
/// lists that are made from depth.
bool lays_depth_first(const Setup& setup);

} // namespace mirolux
