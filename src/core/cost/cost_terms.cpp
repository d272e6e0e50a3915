#include "core/cost/cost_terms.h"
#include "core/cull/grid_settings.h"

namespace mirolux {

namespace {

struct Naming {
    const char *word, *meaning;
};
constexpr Naming namings[] = {
    {"run", "a pass started and waited for"},
    {"draw", "a draw command"},
    {"vertex", "a vertex shaded"},
    {"triangle", "a triangle set up"},
    {"fragment", "a fragment launched"},
    {"hidden", "a pixel that a full-screen pass covers and the depth test refuses"},
    {"operation", "a dependent multiply-add"},
    {"fetch", "a texel read without filter"},
    {"filteredRead", "a texel read with trilinear filter"},
    {"writeUnorm", "a byte written as 8- or 16-bit fixed point"},
    {"writeHalf", "a byte written as half float"},
    {"writeFloat", "a byte written as float"},
    {"writeDepth", "a byte of depth tested and written"},
    {"blendHalf", "a byte blended into half floats"},
    {"blendFloat", "a byte blended into floats"},
    {"clear", "a byte cleared"},
    {"copy", "a byte copied"},
    {"atomic", "an atomic operation on a buffer"},
    {"surface", "a fragment's material, normal and ambient light, its texture reads apart"},
    {"decode", "a pixel's surface taken from the G-buffer"},
    {"sky", "a pixel of sky"},
    {"finish", "a pixel's exposure, tone curve and dither"},
    {"listRead", "a light fetched by an index that differs between pixels"},
    {"idleLight", "a light taken up for a fragment that it does not reach"},
    {"lambert", "a light evaluated, Lambert"},
    {"phong", "a light evaluated, Phong"},
    {"blinnPhong", "a light evaluated, Blinn-Phong"},
    {"ggx", "a light evaluated, GGX"},
    {"group", "a compute group"},
    {"cullSample", "a depth sample taken into a tile's bounds"},
    {"slice", "a depth turned into a cluster's slice"},
    {"sideTest", "a light against a tile's sides"},
    {"cell", "a tile or cluster listed"},
    {"cellTest", "a light against a cell's bounds"},
    {"entry", "an entry written into a list"},
};
static_assert(std::size(namings) == cost_term_count);

} // namespace

const char* word(CostTerm term) {
    return namings[static_cast<std::size_t>(term)].word;
}
const char* meaning(CostTerm term) {
    return namings[static_cast<std::size_t>(term)].meaning;
}

std::optional<CostTerm> cost_term_of(const std::string& text) {
    for (int t = 0; t < cost_term_count; ++t)
        if (text == namings[t].word) return static_cast<CostTerm>(t);
    return std::nullopt;
}

CostTerms terms_of(const PlannedPass& pass, const Work& w, const Setup& setup, const View& view) {
    CostTerms t;
    const double eyes = view.stereo == Stereo::off ? 1 : 2, pixels = eyes * double(view.width) * view.height;
    const auto fragments = static_cast<double>(w.fragments), evaluations = static_cast<double>(w.lightEvaluations),
               reached = static_cast<double>(w.lightsReached);
    const bool half = setup.choice("path.targetFormat") == "rgba16f";
    const double colorBytes = half ? 8 : 16;
    const CostTerm write = half ? CostTerm::writeHalf : CostTerm::writeFloat,
                   blend = half ? CostTerm::blendHalf : CostTerm::blendFloat;
    const PathShape path = path_shape(setup);
    const double depthBytes = path.stencil ? 8 : 4;
    t[CostTerm::run] = pass.bothEyes ? 1 : eyes;
    t[CostTerm::draw] = static_cast<double>(w.draws);
    t[CostTerm::vertex] = 3.0 * static_cast<double>(w.triangles);
    t[CostTerm::triangle] = static_cast<double>(w.triangles);
    t[CostTerm::fragment] = fragments;
    const auto surface = [&](double count) {
        t[CostTerm::surface] = count;
        t[CostTerm::filteredRead] = static_cast<double>(w.textureReads);
    };
    const auto lights = [&](bool listed) {
        const std::string& model = setup.choice("shading.model");
        t[model == "lambert"       ? CostTerm::lambert
          : model == "phong"       ? CostTerm::phong
          : model == "blinn-phong" ? CostTerm::blinnPhong
                                   : CostTerm::ggx] = reached;
        t[CostTerm::idleLight] = evaluations - reached;
        if (listed) t[CostTerm::listRead] = evaluations;
        if (path.clustered && listed) t[CostTerm::slice] = fragments;
    };
    const auto opaque = [&](bool clears) { // colour and depth of the surfaces; whoever comes first clears
        t[write] = fragments * colorBytes;
        if (!path.prepass) t[CostTerm::writeDepth] = fragments * 4;
        if (clears) t[CostTerm::clear] = pixels * (colorBytes + (path.prepass ? 0 : depthBytes));
    };
    switch (pass.kind) {
    case PassKind::depth:
        t[CostTerm::writeDepth] = fragments * 4;
        t[CostTerm::clear] = pixels * depthBytes;
        t[CostTerm::filteredRead] = static_cast<double>(w.textureReads);
        break;
    case PassKind::forward:
    case PassKind::listed:
        surface(fragments);
        lights(true);
        opaque(true);
        break;
    case PassKind::ambient:
        surface(fragments);
        opaque(true);
        break;
    case PassKind::lights:
        surface(fragments);
        lights(false);
        t[blend] = fragments * colorBytes;
        break;
    case PassKind::gbuffer:
        surface(fragments);
        opaque(true);
        if (setup.choice("gbuffer.packing") == "full")
            t[CostTerm::writeFloat] += fragments * 40;
        else
            t[CostTerm::writeUnorm] = fragments * 10;
        break;
    case PassKind::culling: {
        const auto s = cull::grid_settings(setup, path.clustered);
        const double tiles = eyes * ((view.width + s.tile - 1) / s.tile) * ((view.height + s.tile - 1) / s.tile);
        t[CostTerm::group] = tiles;
        t[CostTerm::cullSample] = pixels * (s.depthBounds == cull::DepthBounds::off      ? 0
                                            : s.depthBounds == cull::DepthBounds::minMax ? 1
                                                                                         : 2);
        if (path.clustered) t[CostTerm::slice] = t[CostTerm::cullSample];
        t[CostTerm::sideTest] = static_cast<double>(w.sideTests);
        t[CostTerm::cell] = static_cast<double>(w.cells);
        t[CostTerm::cellTest] = static_cast<double>(w.cellTests);
        t[CostTerm::entry] = static_cast<double>(w.listEntries);
        t[CostTerm::draw] = t[CostTerm::vertex] = t[CostTerm::triangle] = t[CostTerm::fragment] = 0;
        break;
    }
    case PassKind::shading:
        t[CostTerm::decode] = fragments;
        lights(path.lists);
        t[blend] = fragments * colorBytes;
        break;
    case PassKind::volumes:
        t[CostTerm::decode] = evaluations;
        lights(false);
        t[blend] = evaluations * colorBytes;
        t[CostTerm::copy] = pixels * depthBytes;
        break;
    case PassKind::sky:
        t[CostTerm::sky] = fragments;
        t[CostTerm::hidden] = std::max(0.0, pixels - fragments);
        t[write] = fragments * colorBytes;
        break;
    case PassKind::transparent:
        surface(fragments);
        lights(true);
        t[blend] = fragments * colorBytes;
        break;
    case PassKind::peeled: {
        const double layers = setup.whole("transparency.layers");
        surface(fragments);
        lights(true);
        t[write] = fragments * colorBytes;
        t[CostTerm::writeDepth] = fragments * 4;
        t[CostTerm::fetch] = fragments * 2 + pixels * (layers + 1);
        t[CostTerm::fragment] += pixels * (layers + 1);
        t[blend] = pixels * (layers + 1) * colorBytes;
        t[CostTerm::clear] = pixels * (layers * (colorBytes + 4) + colorBytes);
        break;
    }
    case PassKind::finish:
        t[CostTerm::finish] = fragments;
        t[CostTerm::writeUnorm] = fragments * 4;
        break;
    }
    return t;
}

} // namespace mirolux
