#pragma once
#include "demo/mesh_builder.h"

namespace mirolux::demo {

/// Indices into the file's materials.
struct Materials {
    int asphalt, concrete, planks, tiles, water, steel, darkSteel, whitePaint, glass, rubber, wood, lampGlow, whiteGlow,
        redGlow, greenGlow, amberGlow, sign, screen, lines, ferryHull, ferryDeck, rope, tarp;
    int container[5];
    int carPaint[5];
    int wax, glassEye, varnish, brass;
    int face;
};

MeshBuilder container(const Materials& m, int color);
MeshBuilder car(const Materials& m, int color);
MeshBuilder bollard_lamp(const Materials& m);
MeshBuilder street_lamp(const Materials& m);
MeshBuilder gantry(const Materials& m);
MeshBuilder bench(const Materials& m);
MeshBuilder barrel(const Materials& m, int material);
MeshBuilder crate(const Materials& m);
MeshBuilder mooring_bollard(const Materials& m);
MeshBuilder railing(const Materials& m, float length);
MeshBuilder ferry(const Materials& m);
MeshBuilder hall(const Materials& m);
MeshBuilder hall_glass(const Materials& m, float x);
MeshBuilder kiosk(const Materials& m);
MeshBuilder workshop(const Materials& m);
MeshBuilder beacon(const Materials& m);
MeshBuilder buoy(const Materials& m);
MeshBuilder gate_barrier(const Materials& m);
MeshBuilder workbench(const Materials& m);
/// Along x from 0 to 4.2 m, pickets 15 cm apart: what edges crawl on.
MeshBuilder picket_fence(const Materials& m);
/// Beside it, hung five degrees askew: dark below a straight edge.
MeshBuilder tide_board(const Materials& m);

} // namespace mirolux::demo
