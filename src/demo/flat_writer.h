#pragma once
#include "core/io/wire.h"
#include "demo/canvas.h"
#include <filesystem>

namespace mirolux::demo {

/// Gathers a flat scene and writes it: one JSON file and its sheets beside it. Places are given in units, y up.
class FlatWriter {
public:
    FlatWriter(std::string name, const char* seen, int width, int height);

    /// Cells of one size in a row; `relief`: 0 writes no normals.
    void sheet(const std::string& name, const Canvas& canvas, int cellWidth = 0, int cellHeight = 0,
               float relief = 1.0f, bool shines = false);
    void layer(const std::string& name, float parallax = 1.0f, bool lit = true);
    /// By its lower left corner.
    int sprite(const std::string& name, const std::string& layer, const std::string& sheet, glm::vec2 corner,
               int cell = 0, int cells = 1, float rate = 8.0f);
    void tiles(const std::string& name, const std::string& layer, const std::string& sheet, glm::vec2 corner,
               int columns, const std::vector<int>& cells);
    void wall(const std::string& name, const std::vector<glm::vec2>& points, bool closed = true);
    void traced(const std::string& name, int sprite, double tolerance, int inset = 0);
    /// Of the wall that came last: how tall it is, units.
    void height(float units);
    /// No shadow falls on a sprite.
    void always_lit(int sprite);
    Light& light(const std::string& name, LightType type, glm::vec3 place, glm::vec3 color, float intensity,
                 float range);
    Motion& motion(const Light& light, MotionKind kind, float period);
    /// The standard key times with a sky for each: what is kept of unlit layers, and the colour added to them.
    void skies(const std::vector<glm::vec4>& colorsAndKeeps);
    void camera(const std::string& name, glm::vec2 center, float span);

    Result<void> write(const std::filesystem::path& folder, const std::string& file) const;

private:
    struct SheetFiles {
        std::string name;
        ByteImage colors, normals, emission;
        bool hasNormals, shines;
    };
    glm::vec2 cell_size(const std::string& sheet) const;
    Json json_;
    std::vector<SheetFiles> sheets_;
    std::vector<std::pair<std::string, glm::vec2>> sizes_;
    std::vector<Light> lights_;
    std::vector<Motion> motions_;
    int nextSprite_ = 1, nextWall_ = 1;
};

/// Writes the tide gate (side view) and the net loft (from above) with their projects.
Result<void> write_flat_demos(const std::filesystem::path& folder);
/// The net loft with so many seeded round lights: loft-N.mirolux.
Result<void> write_flat_stress(const std::filesystem::path& folder, int lights, unsigned seed);
void paint_tide_gate(FlatWriter& w);
void paint_net_loft(FlatWriter& w);

} // namespace mirolux::demo
