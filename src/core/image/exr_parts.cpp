#include "core/image/image_io.h"
#include "core/io/file.h"
#include <OpenEXR/ImfChannelList.h>
#include <OpenEXR/ImfFrameBuffer.h>
#include <OpenEXR/ImfHeader.h>
#include <OpenEXR/ImfIO.h>
#include <OpenEXR/ImfMultiPartInputFile.h>
#include <OpenEXR/ImfMultiPartOutputFile.h>
#include <OpenEXR/ImfOutputPart.h>
#include <OpenEXR/ImfPartType.h>
#include <cstring>

namespace mirolux {

namespace {

/// A file in memory, written to disk only once it is whole.
class Memory : public Imf::OStream {
public:
    Memory() : Imf::OStream("memory") {}
    void write(const char* bytes, int count) override {
        if (place_ + static_cast<std::size_t>(count) > data.size())
            data.resize(place_ + static_cast<std::size_t>(count));
        std::memcpy(data.data() + place_, bytes, static_cast<std::size_t>(count));
        place_ += static_cast<std::size_t>(count);
    }
    std::uint64_t tellp() override { return place_; }
    void seekp(std::uint64_t place) override { place_ = place; }
    std::string data;

private:
    std::size_t place_ = 0;
};

const char* channels_of(const FloatImage& image) {
    return image.channels == 1 ? "Y" : image.channels == 2 ? "RG" : image.channels == 3 ? "RGB" : "RGBA";
}

Imf::Header header_of(const std::string& name, const FloatImage& image) {
    Imf::Header header(image.width, image.height);
    header.setName(name);
    header.setType(Imf::SCANLINEIMAGE);
    header.compression() = Imf::ZIP_COMPRESSION;
    for (const char* c = channels_of(image); *c; ++c)
        header.channels().insert(std::string(1, *c), Imf::Channel(Imf::FLOAT));
    return header;
}

} // namespace

Result<void> write_exr_parts(const std::filesystem::path& path,
                             const std::vector<std::pair<std::string, FloatImage>>& images) {
    try {
        std::vector<Imf::Header> headers;
        for (const auto& [name, image] : images)
            headers.push_back(header_of(name, image));
        Memory memory;
        {
            // All parts share one window of display: the first one's.
            for (Imf::Header& h : headers)
                h.displayWindow() = headers.front().displayWindow();
            Imf::MultiPartOutputFile file(memory, headers.data(), static_cast<int>(headers.size()));
            for (std::size_t i = 0; i < images.size(); ++i) {
                const FloatImage& image = images[i].second;
                const std::size_t texel = sizeof(float) * static_cast<std::size_t>(image.channels);
                Imf::FrameBuffer buffer;
                char* at = reinterpret_cast<char*>(const_cast<float*>(image.data.data())); // read only
                for (const char* c = channels_of(image); *c; ++c, at += sizeof(float))
                    buffer.insert(std::string(1, *c),
                                  Imf::Slice(Imf::FLOAT, at, texel, texel * static_cast<std::size_t>(image.width)));
                Imf::OutputPart part(file, static_cast<int>(i));
                part.setFrameBuffer(buffer);
                part.writePixels(image.height);
            }
        }
        return write_file_atomically(path, memory.data);
    } catch (const std::exception& e) {
        return fail(std::string("could not be encoded as OpenEXR: ") + e.what(), path.string());
    }
}

Result<std::vector<std::string>> exr_parts(const std::filesystem::path& path) {
    try {
        const Imf::MultiPartInputFile file(path.c_str());
        std::vector<std::string> names;
        for (int i = 0; i < file.parts(); ++i)
            names.push_back(file.header(i).hasName() ? file.header(i).name() : "");
        return names;
    } catch (const std::exception& e) {
        return fail(std::string("is no OpenEXR file that can be read: ") + e.what(), path.string());
    }
}

} // namespace mirolux
