#pragma once
#include "core/scene/scene.h"

namespace mirolux {

/// A texture's value at uv as the shader reads it at the finest mip: bilinear where the texture asks for it, wrapped as
/// glTF says, channels 0..1, not decoded. White where the picture was not read.
glm::vec4 texture_value(const SceneAsset& asset, int texture, const glm::vec2& uv);
/// The same of a colour: RGB decoded from sRGB before they are filtered.
glm::vec4 texture_color(const SceneAsset& asset, int texture, const glm::vec2& uv);
/// The alpha alone.
float texture_alpha(const SceneAsset& asset, int texture, const glm::vec2& uv);

} // namespace mirolux
