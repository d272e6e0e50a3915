#include "core/plan/frame_plan.h"
#include "core/light/proxy.h"

namespace mirolux {

PathShape path_shape(const Setup& setup) {
    const std::string& kind = setup.choice("path.kind");
    PathShape p;
    p.additive = kind == "additive";
    p.volumes = kind == "volumes";
    p.deferred = kind == "deferred" || p.volumes || kind == "tiled-deferred" || kind == "clustered-deferred";
    p.clustered = kind == "clustered-deferred" || kind == "clustered-forward";
    p.lists = p.clustered || kind == "tiled-deferred" || kind == "tiled-forward";
    p.prepass =
        setup.flag("path.depthPrepass") || (p.lists && !p.deferred); // lists are made from depth: it must be laid first
    p.stencil = p.prepass || p.additive || (p.volumes && setup.choice("volumes.form") == "two-step");
    p.peeled = setup.choice("transparency.kind") == "peeled";
    return p;
}

FramePlan plan_frame(const Scene& scene, const Setup& setup, const View& view, const DrawList& list) {
    const SceneAsset& asset = *scene.asset;
    auto work_of = [&](const std::vector<Draw>& draws) {
        Work w;
        for (const Draw& d : draws) {
            ++w.draws;
            w.triangles += asset.primitives[asset.objects[d.object].primitive].indices.size() / 3;
        }
        return w;
    };
    const bool half = setup.choice("path.targetFormat") == "rgba16f";
    const PassTarget color{"scene", half ? "RGBA16F" : "RGBA32F", view.width, view.height, half ? 8 : 16};
    const bool marks = path_shape(setup).stencil;
    const PassTarget depth{"depth", marks ? "DEPTH32F STENCIL8" : "DEPTH32F", view.width, view.height, marks ? 8 : 4};
    const PassTarget picture{"picture", "RGBA8 sRGB", view.width, view.height, 4};
    const PathShape path = path_shape(setup);
    const bool prepass = path.prepass;
    const std::vector<std::string> shading = {"shading.model",      "shading.exponent", "shading.normalised",
                                              "shading.normalMaps", "light.window",     "light.threshold"};
    const std::vector<std::string> ambient = {"ambient.kind", "ambient.constant", "ambient.top", "ambient.side",
                                              "ambient.bottom"};
    auto join = [](std::vector<std::string> a, const std::vector<std::string>& b) {
        a.insert(a.end(), b.begin(), b.end());
        return a;
    };

    FramePlan plan;
    plan.droppedLights = list.droppedLights;
    plan.droppedObjects = list.droppedObjects;
    plan.lightsInScene = list.lightsInScene;
    plan.lightsInView = static_cast<int>(list.lights.size());
    plan.lightsFaded = list.lightsFaded;
    const Work opaque = work_of(list.opaque);
    if (prepass)
        plan.passes.push_back({PassKind::depth,
                               "depth",
                               "depth",
                               "Lays the depth of opaque and masked surfaces.",
                               {},
                               {depth},
                               {"path.depthPrepass"},
                               opaque});
    const std::vector<std::string> culling = {"culling.tile",     "culling.depthBounds",  "culling.test",
                                              "culling.coneTest", "culling.listCapacity", "culling.lanes"};
    const auto cull_pass = [&] {
        plan.passes.push_back({PassKind::culling,
                               "culling",
                               "culling",
                               path.clustered ? "Lists the lights of each cluster on the GPU."
                                              : "Lists the lights of each tile on the GPU.",
                               {"depth"},
                               {{"light lists", "uint32", view.width, view.height, 0}},
                               path.clustered ? join(join({"path.kind"}, culling), {"cluster.slices", "cluster.near",
                                                                                    "cluster.far", "cluster.exponent"})
                                              : join({"path.kind"}, culling),
                               {}});
    };
    Work screen;
    screen.draws = 1;
    screen.triangles = 1;
    if (path.deferred) {
        const bool full = setup.choice("gbuffer.packing") == "full";
        plan.passes.push_back(
            {PassKind::gbuffer,
             "g-buffer",
             "opaque",
             "Draws opaque and masked surfaces into the G-buffer, with ambient light and emission into the scene.",
             prepass ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
             {{"base colour, metallic", full ? "RGBA32F" : "RGBA8", view.width, view.height, full ? 16 : 4},
              {"normal", full ? "RGBA32F" : "RG16 octahedral", view.width, view.height, full ? 16 : 4},
              {"roughness, unlit", full ? "RG32F" : "RG8", view.width, view.height, full ? 8 : 2},
              color,
              depth},
             join({"path.kind", "gbuffer.packing", "path.targetFormat", "shading.normalMaps"}, ambient),
             opaque});
        if (path.lists) cull_pass();
        if (path.volumes) {
            const bool twice = setup.choice("volumes.form") == "two-step";
            static const std::uint64_t sphere = sphere_proxy(volume_sphere_steps).indices.size() / 3,
                                       cone = cone_proxy(volume_cone_sides).indices.size() / 3;
            Work volumes;
            if (list.directional > 0) volumes = screen;
            for (std::size_t l = static_cast<std::size_t>(list.directional); l < list.lights.size(); ++l) {
                const std::uint64_t triangles =
                    light_proxy(list.lights[l], list.reach[l]).shape == ProxyShape::sphere ? sphere : cone;
                volumes.draws += twice ? 2 : 1;
                volumes.triangles += triangles * (twice ? 2 : 1);
            }
            plan.passes.push_back({PassKind::volumes,
                                   "volumes",
                                   "lights",
                                   twice ? "Marks by stencil what lies inside each light's volume, then shades it; "
                                           "directional lights over the whole picture."
                                         : "Shades what lies before the back of each light's volume; directional "
                                           "lights over the whole picture.",
                                   {"depth", "base colour, metallic", "normal", "roughness, unlit"},
                                   {color, {"depth copy", depth.format, view.width, view.height, depth.bytesPerPixel}},
                                   join({"path.kind", "volumes.form"}, shading),
                                   volumes});
        } else
            plan.passes.push_back(
                {PassKind::shading,
                 "shading",
                 "lights",
                 path.lists ? "Shades each pixel with the lights of its list." : "Shades each pixel with every light.",
                 {"depth", "base colour, metallic", "normal", "roughness, unlit"},
                 {color},
                 join({"path.kind"}, shading),
                 screen});
    } else if (path.lists) {
        cull_pass();
        plan.passes.push_back({PassKind::listed,
                               "opaque",
                               "opaque",
                               "Draws opaque and masked surfaces, each pixel with the lights of its list.",
                               {"depth", "light lists"},
                               {color, depth},
                               join(join({"path.kind", "path.targetFormat"}, shading), ambient),
                               opaque});
    } else if (!path.additive) {
        plan.passes.push_back(
            {PassKind::forward,
             "opaque",
             "opaque",
             "Draws opaque and masked surfaces, each with its up to K lights.",
             prepass ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
             {color, depth},
             join(join({"path.kind", "path.maxLights", "path.choose", "path.targetFormat"}, shading), ambient),
             opaque});
    } else {
        plan.passes.push_back({PassKind::ambient,
                               "ambient",
                               "opaque",
                               "Draws opaque and masked surfaces with ambient light and their own emission.",
                               prepass ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
                               {color, depth},
                               join({"path.kind", "path.targetFormat", "shading.normalMaps"}, ambient),
                               opaque});
        Work lights;
        for (const LightDraws& per : list.perLight) {
            lights.draws += per.draws.size();
            for (const std::uint32_t d : per.draws)
                lights.triangles += asset.primitives[asset.objects[list.opaque[d].object].primitive].indices.size() / 3;
        }
        plan.passes.push_back({PassKind::lights,
                               "lights",
                               "lights",
                               "Adds each light in turn inside its scissor, where depth is equal: draws times lights.",
                               {"depth"},
                               {color},
                               join({"path.kind"}, shading),
                               lights});
    }
    plan.passes.push_back(
        {PassKind::sky, "sky", "sky", "Fills what no surface covers.", {"depth"}, {color}, {}, screen});
    if (!list.blended.empty() && path.peeled) {
        const int layers = setup.whole("transparency.layers");
        Work work = work_of(list.blended);
        work.draws = work.draws * static_cast<std::uint64_t>(layers) + static_cast<std::uint64_t>(layers) + 1;
        work.triangles = work.triangles * static_cast<std::uint64_t>(layers) + static_cast<std::uint64_t>(layers) + 1;
        plan.passes.push_back({PassKind::peeled,
                               "transparent",
                               "transparent",
                               "Peels blended surfaces layer by layer from the eye, and puts them over the scene.",
                               {"depth"},
                               {color,
                                {"peeled layer", color.format, view.width, view.height, color.bytesPerPixel},
                                {"peeled sum", color.format, view.width, view.height, color.bytesPerPixel},
                                {"peeled depth, twice", "DEPTH32F", view.width, view.height, 8}},
                               join({"transparency.kind", "transparency.layers", "path.maxLights"}, shading),
                               work});
    } else if (!list.blended.empty())
        plan.passes.push_back({PassKind::transparent,
                               "transparent",
                               "transparent",
                               "Draws blended surfaces, farthest first, each with its lights.",
                               {"depth"},
                               {color},
                               join({"transparency.kind", "path.maxLights"}, shading),
                               work_of(list.blended)});
    plan.passes.push_back({PassKind::finish,
                           "finish",
                           "finish",
                           "Exposure, tone curve, sRGB and dither.",
                           {"scene"},
                           {picture},
                           {"exposure.ev100", "tone.curve", "tone.white", "output.dither"},
                           screen});
    if (view.stereo == Stereo::off) return plan;
    for (PlannedPass& p : plan.passes) {
        p.bothEyes = view.stereo == Stereo::onePass && draws_both_eyes(p.kind);
        p.what += p.bothEyes ? " One run for both eyes." : " Once for each eye.";
        if (!p.bothEyes) p.expected.draws *= 2;
        p.expected.triangles *= 2;
        for (PassTarget& t : p.writes)
            t.layers = 2;
    }
    return plan;
}

bool draws_both_eyes(PassKind kind) {
    switch (kind) {
    case PassKind::depth:
    case PassKind::forward:
    case PassKind::ambient:
    case PassKind::lights:
    case PassKind::gbuffer:
    case PassKind::listed:
    case PassKind::transparent:
        return true;
    default:
        return false;
    }
}

const std::vector<LayerInfo>& all_layers() {
    static const std::vector<LayerInfo> layers = {
        {"final", "Final", "The picture: everything, after exposure and tone curve."},
        {"albedo", "Albedo", "Base colour of the nearest opaque surface, without light."},
        {"normal", "Normal", "World-space normal, -1..1 shown as 0..1."},
        {"material", "Rough / metal", "Roughness in red, metallic in green."},
        {"depth", "Depth", "Distance along the view axis, near white to far black, ranged to what is in view."},
        {"ambient", "Ambient", "What ambient light alone gives."},
        {"diffuse", "Diffuse", "Diffuse light of all lights."},
        {"specular", "Specular", "Specular light of all lights."},
        {"emissive", "Emissive", "What surfaces and sky give off themselves."},
    };
    return layers;
}

bool is_layer(const std::string& name) {
    for (const LayerInfo& l : all_layers())
        if (l.name == name) return true;
    return false;
}

} // namespace mirolux
