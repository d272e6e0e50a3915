#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include <glm/glm.hpp>

// How edges are smoothed: which of the ways a frame takes, where it samples a pixel, and how samples become one.
namespace mirolux {

struct FramePlan;

enum class Edges { none, filter, multisample, supersample, temporal };
Edges edges_of(const Setup& setup);
/// Samples of a pixel that multisampling, supersampling and temporal accumulation take.
int edge_samples(const Setup& setup);

/// Where frame `index` of a sequence of `places` (a power of two) moves the projection, in pixels from the middle, x to
/// the right, y up: the first two dimensions of a (0,2)-sequence (I. M. Sobol, 1967), half a place on, so that every
/// `places` frames are stratified along both axes and their mean is 0.
glm::dvec2 jitter_of(std::uint64_t index, int places);
/// Places that the jitter goes through: more where a fraction of the pixels is rendered.
int jitter_places(const Setup& setup, const View& rendered);
/// True if frames of this view are joined with those before them. A quick picture stands alone: history would cost it
/// many frames.
bool accumulates(const Setup& setup, const View& rendered, bool flat);

/// Samples are averaged as the tone curve shows them, near enough: the value v whose map v / (1 + s v) over the
/// brightest channel is the mean of theirs (B. Karis, High Quality Temporal Supersampling, 2014). Else their radiance
/// is averaged.
bool averages_toned(const Setup& setup);
/// s for exposed values: 1 over the exposed grey that the setup's tone curve shows as half of white, so that a pixel
/// half covered by what is far over white comes out at half.
double sample_bend(const Setup& setup);
glm::dvec3 mapped_sample(const glm::dvec3& radiance, double s);
glm::dvec3 unmapped_sample(const glm::dvec3& mapped, double s);

/// What the coded picture is after the edge filter, as shaders/edge_filter/fragment.glsl: where contrast over the cross
/// of a pixel is larger than the threshold, the edge through it is followed both ways to its ends, and the pixel takes
/// from across it what a straight line between the ends covers of it, in the light that the codes stand for.
/// Source: our own, after A. Reshetov, Morphological Antialiasing, 2009, and T. Lottes, FXAA, 2009.
/// coded: 3 channels or more, 0..1.
FloatImage edges_filtered(const FloatImage& coded, double threshold, int reach);

/// Why a plan's frame does not have the way that its setup asks for: a sentence, or empty.
std::string edges_left_out(const FramePlan& plan);

/// The targets of the ways.
inline constexpr const char* resolved_resource = "resolved";
inline constexpr const char* accumulated_resource = "accumulated";
inline constexpr const char* ghosts_resource = "ghosts";
inline constexpr const char* coded_resource = "coded";

} // namespace mirolux
