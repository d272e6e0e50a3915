#pragma once
#include <QByteArray>
#include <QDataStream>
#include <QFile>
#include <QString>

namespace mirolux::test {

/// A white plate of 2 x 2 m, with no light and no camera.
inline bool write_plate(const QString& path) {
    QByteArray bytes;
    QDataStream out(&bytes, QIODevice::WriteOnly);
    out.setByteOrder(QDataStream::LittleEndian);
    out.setFloatingPointPrecision(QDataStream::SinglePrecision);
    for (const float v : {-1.0f, 0.0f, -1.0f, 1.0f, 0.0f, -1.0f, -1.0f, 0.0f, 1.0f, 1.0f, 0.0f, 1.0f})
        out << v;
    for (const quint16 i : {0, 2, 1, 1, 2, 3})
        out << i;
    const QByteArray text =
        R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],)"
        R"("meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1}]}],)"
        R"("accessors":[{"bufferView":0,"componentType":5126,"count":4,"type":"VEC3","min":[-1,0,-1],"max":[1,0,1]},)"
        R"({"bufferView":1,"componentType":5123,"count":6,"type":"SCALAR"}],)"
        R"("bufferViews":[{"buffer":0,"byteOffset":0,"byteLength":48},{"buffer":0,"byteOffset":48,"byteLength":12}],)"
        R"("buffers":[{"byteLength":60,"uri":"data:application/octet-stream;base64,)" +
        bytes.toBase64() + "\"}]}";
    QFile file(path);
    return file.open(QIODevice::WriteOnly) && file.write(text) == text.size();
}

} // namespace mirolux::test
