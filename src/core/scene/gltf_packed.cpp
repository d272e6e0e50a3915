#include "core/scene/gltf_packed.h"
#include <draco/compression/decode.h>
#include <meshoptimizer.h>

namespace mirolux::gltf {

namespace {

struct Packing {
    std::size_t count, stride;
    std::string mode, filter;
};

Packing packing_of(const JsonCursor& e) {
    Packing p{e["count"].whole(1u << 28), e["byteStride"].whole(256), e["mode"].text(), e.text("filter", "NONE")};
    const JsonCursor stride = e["byteStride"];
    if (p.mode == "ATTRIBUTES") {
        if (p.stride == 0 || p.stride % 4 != 0) stride.complain("must be a multiple of 4 from 4 to 256");
    } else if (p.mode == "TRIANGLES" || p.mode == "INDICES") {
        if (p.stride != 2 && p.stride != 4) stride.complain("of indices must be 2 or 4");
        if (p.mode == "TRIANGLES" && p.count % 3 != 0)
            e["count"].complain("of triangles' indices must be a multiple of 3");
        if (p.filter != "NONE") e["filter"].complain("indices have no filter");
    } else
        e["mode"].complain("is \"" + p.mode + "\", not ATTRIBUTES, TRIANGLES or INDICES");
    if (p.filter == "OCTAHEDRAL" ? p.stride != 4 && p.stride != 8 : p.filter == "QUATERNION" && p.stride != 8)
        stride.complain("does not go with the filter " + p.filter);
    if (p.filter != "NONE" && p.filter != "OCTAHEDRAL" && p.filter != "QUATERNION" && p.filter != "EXPONENTIAL")
        e["filter"].complain("is \"" + p.filter + "\", not one of the extension's");
    return p;
}

} // namespace

std::size_t unpacked_size(const JsonCursor& extension) {
    const Packing p = packing_of(extension);
    return p.count * p.stride;
}

Bytes unpack_view(const JsonCursor& extension, std::span<const std::uint8_t> packed) {
    const Packing p = packing_of(extension);
    Bytes out(p.count * p.stride);
    if (p.count == 0) return out;
    const int failed = p.mode == "ATTRIBUTES"
                           ? meshopt_decodeVertexBuffer(out.data(), p.count, p.stride, packed.data(), packed.size())
                       : p.mode == "TRIANGLES"
                           ? meshopt_decodeIndexBuffer(out.data(), p.count, p.stride, packed.data(), packed.size())
                           : meshopt_decodeIndexSequence(out.data(), p.count, p.stride, packed.data(), packed.size());
    if (failed != 0) extension.complain("its bytes are not what meshoptimizer packs", "Export the file again.");
    if (p.filter == "OCTAHEDRAL") meshopt_decodeFilterOct(out.data(), p.count, p.stride);
    if (p.filter == "QUATERNION") meshopt_decodeFilterQuat(out.data(), p.count, p.stride);
    if (p.filter == "EXPONENTIAL") meshopt_decodeFilterExp(out.data(), p.count, p.stride);
    return out;
}

DracoMesh unpack_draco(const JsonCursor& extension, std::span<const std::uint8_t> packed) {
    draco::DecoderBuffer buffer;
    buffer.Init(reinterpret_cast<const char*>(packed.data()), packed.size());
    const auto type = draco::Decoder::GetEncodedGeometryType(&buffer);
    if (!type.ok() || type.value() != draco::TRIANGULAR_MESH)
        extension.complain("its bytes are no mesh that Draco packs", "Export the file again.");
    draco::Decoder decoder;
    auto decoded = decoder.DecodeMeshFromBuffer(&buffer);
    if (!decoded.ok())
        extension.complain(std::string("Draco cannot unpack it: ") + decoded.status().error_msg(),
                           "Export the file again.");
    const draco::Mesh& mesh = *decoded.value();
    DracoMesh out;
    out.vertices = mesh.num_points();
    const JsonCursor attributes = extension["attributes"];
    if (!attributes.json().is_object()) attributes.complain("must be an object");
    for (const auto& [name, id] : attributes.json().items()) {
        const JsonCursor where = attributes[name.c_str()];
        const draco::PointAttribute* a =
            mesh.GetAttributeByUniqueId(static_cast<std::uint32_t>(where.whole(0xFFFFFFFF)));
        if (!a) where.complain("names an attribute that is not packed");
        DracoMesh::Values values;
        values.components = a->num_components();
        if (values.components < 1 || values.components > 16) where.complain("has an odd number of components");
        values.normalized = a->normalized();
        values.values.resize(out.vertices * static_cast<std::size_t>(values.components));
        for (draco::PointIndex i(0); i < mesh.num_points(); ++i)
            if (!a->ConvertValue<double>(a->mapped_index(i), static_cast<std::int8_t>(values.components),
                                         &values.values[i.value() * static_cast<std::size_t>(values.components)]))
                where.complain("holds values of a kind that cannot be read");
        out.attributes.emplace(name, std::move(values));
    }
    out.indices.reserve(3 * std::size_t(mesh.num_faces()));
    for (draco::FaceIndex f(0); f < mesh.num_faces(); ++f)
        for (const draco::PointIndex& p : mesh.face(f))
            out.indices.push_back(p.value());
    return out;
}

} // namespace mirolux::gltf
