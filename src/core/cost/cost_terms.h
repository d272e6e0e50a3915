#pragma once
#include "core/cost/frame_record.h"
#include <array>

namespace mirolux {

/// What a frame is made of, as a device pays for it. A device profile gives each a rate; a pass is priced by how many
/// of each it does.
enum class CostTerm {
    run,          // a pass started and waited for
    draw,         // a draw command
    vertex,       // a vertex shaded
    triangle,     // a triangle set up
    fragment,     // a fragment launched
    hidden,       // a pixel that a full-screen pass covers and the depth test refuses
    operation,    // a dependent multiply-add
    fetch,        // a texel read without filter
    filteredRead, // a texel read with trilinear filter
    writeUnorm,   // a byte written as 8- or 16-bit fixed point
    writeHalf,    // a byte written as half float
    writeFloat,   // a byte written as float
    writeDepth,   // a byte of depth tested and written
    blendHalf,    // a byte blended into half floats
    blendFloat,   // a byte blended into floats
    clear,        // a byte cleared
    copy,         // a byte copied
    atomic,       // an atomic operation on a buffer
    surface,      // a fragment's material, normal and ambient light, its texture reads apart
    decode,       // a pixel's surface taken from the G-buffer
    sky,          // a pixel of sky
    finish,       // a pixel's exposure, tone curve and dither
    listRead,     // a light fetched by an index that differs between pixels
    idleLight,    // a light taken up for a fragment that it does not reach
    lambert,      // a light evaluated, by shading model
    phong,
    blinnPhong,
    ggx,
    group,      // a compute group
    cullSample, // a depth sample taken into a tile's bounds
    slice,      // a depth turned into a cluster's slice
    sideTest,   // a light against a tile's sides
    cell,       // a tile or cluster listed
    cellTest,   // a light against a cell's bounds
    entry,      // an entry written into a list
    count
};
inline constexpr int cost_term_count = static_cast<int>(CostTerm::count);
const char* word(CostTerm term);    // camelCase, as in a profile's JSON
const char* meaning(CostTerm term); // one line
std::optional<CostTerm> cost_term_of(const std::string& word);

/// How many of each term.
struct CostTerms {
    std::array<double, cost_term_count> amounts{};
    double& operator[](CostTerm t) { return amounts[static_cast<std::size_t>(t)]; }
    double operator[](CostTerm t) const { return amounts[static_cast<std::size_t>(t)]; }
};

/// What a planned pass does, from its counted work. Needs work counted by the instrumented variants
/// (RenderOptions::count).
CostTerms terms_of(const PlannedPass& pass, const Work& work, const Setup& setup, const View& view);

} // namespace mirolux
