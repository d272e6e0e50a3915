#include "core/cull/grid_settings.h"

namespace mirolux::cull {

GridSettings grid_settings(const Setup& setup, bool clustered) {
    GridSettings s;
    s.tile = std::stoi(setup.choice("culling.tile"));
    const std::string& bounds = setup.choice("culling.depthBounds");
    s.depthBounds = bounds == "off" ? DepthBounds::off : bounds == "min-max" ? DepthBounds::minMax : DepthBounds::mask;
    s.test = setup.choice("culling.test") == "sphere-planes" ? TileTest::spherePlanes : TileTest::sphereBox;
    s.coneTest = setup.flag("culling.coneTest");
    s.capacity = setup.whole("culling.listCapacity");
    s.slices = clustered ? setup.whole("cluster.slices") : 1;
    s.sliceNear = static_cast<float>(setup.number("cluster.near"));
    s.sliceExponent = static_cast<float>(setup.number("cluster.exponent"));
    s.sliceFar = std::max(static_cast<float>(setup.number("cluster.far")), s.sliceNear * 1.01f);
    return s;
}

} // namespace mirolux::cull
