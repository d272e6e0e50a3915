#pragma once
#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"

// What passes over surfaces have in common: the slots that their shaders call, and what a device pays for them.
namespace mirolux {

/// Slots of a shader that lights a surface, and of one that only lays ambient light and emission.
inline const std::vector<Slot> lit_slots = {
    Slot::lightFactor,  Slot::lightThickness, Slot::ambientDiffuse, Slot::ambientSpecular,
    Slot::probeDiffuse, Slot::probeSpecular,  Slot::occlusion,      Slot::air,
    Slot::baked,        Slot::spaceDiffuse,   Slot::bakedOcclusion};
inline const std::vector<Slot> unlit_slots = {Slot::ambientDiffuse, Slot::ambientSpecular, Slot::probeDiffuse,
                                              Slot::probeSpecular,  Slot::occlusion,       Slot::air,
                                              Slot::baked,          Slot::spaceDiffuse,    Slot::bakedOcclusion};
/// The same of surfaces that no target of the screen holds.
inline const std::vector<Slot> blended_slots = {Slot::lightFactor,
                                                Slot::lightThickness,
                                                Slot::ambientDiffuse,
                                                Slot::ambientSpecular,
                                                Slot::probeDiffuse,
                                                Slot::probeSpecular,
                                                Slot::air,
                                                Slot::spaceDiffuse};
/// Slots of a shader that adds lights to what is there.
inline const std::vector<Slot> added_light_slots = {Slot::lightFactor, Slot::lightThickness, Slot::air};

/// True if a G-buffer leaves ambient light to a pass of its own: something on the screen takes part in it.
bool lays_ambient_later(const FrameInputs& in);

/// What a pass that lays ambient light writes: the scene, and what surfaces mirror of it if someone reads that.
std::vector<std::string> with_mirror_shares(const PlanBuilder& b, std::vector<std::string> writes);
/// What a pass that lays light of any kind writes: with it the diffuse part apart, if someone reads that.
std::vector<std::string> with_diffuse_light(const PlanBuilder& b, std::vector<std::string> writes);

/// Keys of settings that shape every shader which lights surfaces.
std::vector<std::string> shading_keys();
std::vector<std::string> joined_keys(std::vector<std::string> a, const std::vector<std::string>& b);

/// Bytes of a texel of the scene target; the terms for bytes written and blended there.
double scene_bytes(const FramePlan& plan);
const char* write_term(const FramePlan& plan);
const char* blend_term(const FramePlan& plan);
double depth_bytes(const FramePlan& plan);

/// A material's surface for each of `fragments`.
void price_surface(const Work& work, CostTerms& t);
/// Lights taken up; `listed`: by an index that differs between pixels.
void price_lights(const FramePlan& plan, const Work& work, bool listed, CostTerms& t);
/// What surfaces mirror, where the pass writes it too.
void price_mirror_shares(const FramePlan& plan, const PlannedPass& pass, const Work& work, CostTerms& t);
/// Diffuse light apart, where the pass writes it too; blended: added to what is there.
void price_diffuse_light(const PlannedPass& pass, double fragments, bool blended, CostTerms& t);
/// Colour and depth of opaque surfaces; the pass clears what no pass before it did.
void price_opaque(const FramePlan& plan, const PlannedPass& pass, const Work& work, CostTerms& t);

} // namespace mirolux
