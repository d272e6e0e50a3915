#pragma once
#include <QDir>
#include <QFile>
#include <QString>

namespace mirolux::test {

/// Puts a vertex shader that does not end in any time a person would wait into `folder`. Long and not endless: the
/// software renderer breaks off a loop after 65,535 turns, so each turn is made heavy and every vertex takes them all.
inline bool write_hanging_shader(const QString& folder) {
    QFile original(QString(MIROLUX_SOURCE) + "/src/gpu/shaders/surface/vertex.glsl");
    if (!original.open(QIODevice::ReadOnly)) return false;
    QByteArray text = original.readAll();
    const QByteArray place = "    gl_Position = ";
    if (text.count(place) != 1) return false;
    const qsizetype start = text.indexOf(place), end = text.indexOf(";\n", start) + 2;
    text.insert(end, "    gl_Position.x += x * 1e-30;\n");
    text.insert(
        start,
        "    float x = position.x;\n    for (int i = 0; i < 60000; ++i)\n        for (int k = 0; k < 60000; ++k)\n"
        "            x = sin(x * 1.7) + cos(x + sin(x * 3.1) + cos(x * 0.3)) + sqrt(abs(sin(x + 2.0)));\n");
    if (!QDir(folder).mkpath("surface")) return false;
    QFile file(folder + "/surface/vertex.glsl");
    return file.open(QIODevice::WriteOnly) && file.write(text) == text.size();
}

} // namespace mirolux::test
