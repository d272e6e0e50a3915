#pragma once
#include "core/bake/light_map.h"

// What is done to a light map once it is computed: noise taken out, and steps between charts.
namespace mirolux {

/// Bounced light, smoothed along surfaces: five rounds of a sparse kernel of growing width, each texel taking the more
/// of another the nearer it lies, the more alike their normals are and the less their light differs for its noise
/// (H. Dammertz, D. Sewtz, J. Hanika and H. Lensch, Edge-Avoiding A-Trous Wavelet Transform for fast Global
/// Illumination Filtering, 2010). Straight light stays as it is: its edges are shadows'. points: map_points.
void denoise(LightOfMap& light, const LightMapLayout& layout, const std::vector<MapPoint>& points);

/// Where two charts meet that go on smoothly into each other (same place, same normal).
struct Seam {
    glm::vec2 a[2], b[2]; // its ends in both charts, texels in the mesh's rectangle
};
std::vector<Seam> seams_of(const MappedMesh& mesh);

/// Makes lookups on both sides of each seam agree, with as little change of texels as does (least squares over the
/// texels that they touch, solved by a sparse Cholesky factor of each mesh). Of the first three channels.
void stitch(FloatImage& light, const LightMapLayout& layout);

/// Over places along all seams, by luminance as looked up: the mean step |a - b| over the mean light; `places`: how
/// many.
struct SeamStep {
    double mean = 0;
    std::size_t places = 0;
};
SeamStep seam_step(const FloatImage& light, const LightMapLayout& layout);

} // namespace mirolux
