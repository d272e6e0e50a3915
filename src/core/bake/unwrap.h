#pragma once
#include "core/scene/scene.h"

// A second set of texture coordinates, for what is computed beforehand: every point of a mesh's surface has a place of
// its own in the picture.
namespace mirolux {

struct UnwrapOptions {
    float bend = 50.0f;   // degrees: normals of a chart are no further than this from its mean
    float stretch = 2.0f; // largest that a chart may have; beyond, it is cut in two
};

/// A part of a mesh that is laid flat in one piece.
struct Chart {
    std::vector<std::uint32_t> triangles;
    glm::vec2 size{0.0f}; // of the rectangle that it lies in, metres; its area is that of its triangles
    /// Over its triangles: how much longer a length becomes, or shorter, where that is most; 1: as it is.
    float stretch = 1.0f;
};

/// A mesh laid flat.
struct Unwrapping {
    static constexpr std::uint32_t none = 0xFFFFFFFFu; // of a triangle without an area: it shows nothing
    std::vector<glm::vec2> corners;                    // three a triangle, metres in its chart's rectangle, from (0, 0)
    std::vector<std::uint32_t> chartOf;                // by triangle, into charts
    std::vector<Chart> charts;                         // largest first
    int cuts = 0;                                      // of charts that would have overlapped or stretched too far

    float stretch() const; // the largest
};

/// Pieces of the mesh's own second texture coordinates are charts as they are, where they do not overlap themselves or
/// stretch too far. Of the rest charts grow from the largest triangle over edges that two triangles share, as far as
/// normals allow; each is laid flat by its plane, or conformally where it bends (B. Levy, S. Petitjean, N. Ray, J.
/// Maillot, Least Squares Conformal Maps for Automatic Texture Atlas Generation, 2002), and cut where it would overlap
/// itself. No two triangles of a chart overlap: tested exactly, on whole numbers. Takes time by the number of
/// triangles.
Unwrapping unwrap(const Primitive& mesh, const UnwrapOptions& options = {});

} // namespace mirolux
