#pragma once
#include "core/ambient/environment.h"
#include "gpu/frame/clock.h"
#include "gpu/passes/surface_pass.h"

// Cube maps of radiance averaged over lobes, on the device: what surroundings and captures of probes have in common.
namespace mirolux::gpu {

/// A cube map's faces as something else than the layers that they are drawn to. Made for each frame.
GLuint cube_view(PassFrame& f, const std::string& resource, GLenum target, int layers, const char* name);
/// A framebuffer that takes a face of a mip at a time.
GLuint face_target(PassFrame& f);
void draw_face(const Stage& stage, PassState state, GLuint texture, int size, int mip, int layer);
/// Linear between texels, none beyond the edge.
void smooth(GLuint texture);
/// The table of split sums on the device, as the sampler `splitSums`.
void provide_split_sums(PassFrame& f);

/// How long gathering may go on in a frame.
class GatherSlice {
public:
    explicit GatherSlice(const PassFrame& f) : ms_(f.gatherMs), start_(now_ms()) {}
    /// Waits for what was drawn, where there is a limit.
    bool over() const;

private:
    double ms_, start_;
};
/// Adds to what the frame tells of gathering under way.
void tell_gathering(PassFrame& f, std::uint64_t done, std::uint64_t all);

/// Finished cube maps by what they were made of: light that was there before need not be gathered again. The newest
/// few.
class KeptCubes {
public:
    /// Puts back what was kept of `digest`; false: nothing was.
    bool put_back(const std::string& digest, GLuint texture);
    /// size: of a face, layers: 6 for each cube.
    void keep(const std::string& digest, GLuint texture, GLenum format, int size, int layers, int mips);

private:
    struct Kept {
        std::string digest;
        Texture texture;
        int size = 0, layers = 0, mips = 0;
    };
    static void copy(GLuint from, GLuint to, int size, int layers, int mips);
    static constexpr std::size_t most = 3;
    std::vector<Kept> kept_; // newest last
};

/// Averages a cube over lobes of all widths of `levels`.
class LobeGather {
public:
    /// `cube`: what is averaged, with its mips. `sources`: of each set of lobes that will be drawn the picture with its
    /// bright texels lowered; null: drawn by the device.
    static Result<LobeGather> prepare(PassFrame& f, const LobeLevels& levels, GLuint cube, const std::string& name,
                                      std::vector<std::shared_ptr<const CubeOfPicture>> sources);
    /// Draws a source's lobes, from the face `from` of all levels on, into the layers of a cube map array from
    /// `firstLayer` on, divided by `scale`. Returns the face to go on with: faces() once all are there.
    std::uint64_t draw(PassFrame& f, std::size_t source, GLuint texture, int firstLayer, double scale,
                       std::uint64_t from, const GatherSlice& slice) const;
    /// Faces of all levels.
    std::uint64_t faces() const { return static_cast<std::uint64_t>(6 * levels_.count()); }
    /// Draws that a source's faces between two take: its mirror may be a picture.
    std::uint64_t draws(std::size_t source, std::uint64_t from, std::uint64_t to) const;

private:
    LobeLevels levels_;
    Stage mirror_, lobe_;
    PassState state_;
    std::vector<GLint> first_; // sample of each level, and the end
    std::vector<std::shared_ptr<const CubeOfPicture>> sources_;
    std::vector<std::size_t> firstBright_; // of each source
};

} // namespace mirolux::gpu
