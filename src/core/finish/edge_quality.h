#pragma once
#include "core/cost/frame_record.h"
#include <functional>

// Ways of smoothing edges held against the mean of what is shown of many samples a pixel.
namespace mirolux {

/// Codes that a picture's luma is off on edges: where the truth's luma differs by more than 24 codes within 3x3 pixels.
struct EdgeErrors {
    double mean = 0, p95 = 0; // codes
    int pixels = 0;           // on edges
};
EdgeErrors edge_errors(const ByteImage& picture, const ByteImage& truth);
/// Mean change of luma from one picture to the next, codes, on the edges of either truth.
double edge_change(const ByteImage& before, const ByteImage& now, const ByteImage& truthBefore,
                   const ByteImage& truthNow);
/// The same of the change that the truth does not have: what crawls.
double edge_crawl(const ByteImage& before, const ByteImage& now, const ByteImage& truthBefore,
                  const ByteImage& truthNow);

/// The camera turned to the right by so many pixels at the picture's middle.
Camera panned(const Camera& camera, const View& view, double pixels);

struct EdgeWay {
    std::string word;
    Setup setup;
    EdgeErrors still, moving;     // of the settled picture, and at the end of the pan
    double change = 0, crawl = 0; // codes a frame, over the pan
    std::size_t bytes = 0;        // that the frame's targets take
    std::string leftOut;          // why a path cannot have it
};

struct EdgeQuestion {
    Scene scene;
    Setup setup;
    View view; // of the picture that is shown
    std::vector<std::pair<std::string, Setup>> ways;
    int frames = 8;    // of the pan
    double pan = 0.25; // pixels a frame
    int side = 16;     // of the truth's grid of samples: 256
};

struct EdgeQuality {
    double change = 0; // of the truth, codes a frame
    int samples = 0;   // of the truth, a pixel: fewer than asked for where the picture would be too large
    std::vector<EdgeWay> ways;
};

/// The ways by their words: none, filter, multisample, supersample, temporal; "temporal at half" renders a quarter of
/// the pixels. All of them for an empty list. Errors: a word that is none of them.
Result<std::vector<std::pair<std::string, Setup>>> edge_ways(const Setup& setup, const std::vector<std::string>& words);

/// Errors: the session's. go_on is told what is being done and the share of it; false stops with what there is.
Result<EdgeQuality> edge_quality(RenderSession& session, const EdgeQuestion& question,
                                 const std::function<bool(const char*, double)>& go_on = {});

} // namespace mirolux
