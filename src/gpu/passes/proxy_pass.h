#pragma once
#include "core/light/proxy.h"
#include "gpu/frame/proxy_meshes.h"
#include "gpu/passes/pass_frame.h"

// What passes over the proxy meshes of lights have in common: surfaces inside a mesh are marked by stencil, and what
// is marked is drawn.
namespace mirolux::gpu {

/// The unit meshes, made when they are first asked for.
const ProxyMeshes& proxy_meshes(const PassFrame& frame);
/// Draws a proxy with a stage of volumes/vertex.glsl, and this state.
void draw_proxy(const ProxyMeshes& meshes, const Stage& stage, const PassState& state, const Proxy& proxy);

/// Writes the stencil alone, by depth fail: a surface inside the mesh hides its back face but not its front face, so
/// that one count is left. Works with the eye inside as well (W. Bilodeau and M. Songy; J. Carmack, 2000).
PassState marking(PassState plain);
/// Passes where the stencil is marked, at the mesh's back faces, and wipes it for the next.
PassState where_marked(PassState plain);

} // namespace mirolux::gpu
