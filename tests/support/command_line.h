#pragma once
#include <QProcess>
#include <QStringList>
#include <string>

namespace mirolux::test {

/// What a run of mirolux-cli came to.
struct Ran {
    int code;
    std::string out, err;
};
inline Ran run_cli(const QStringList& words) {
    QProcess p;
    p.start(QString(MIROLUX_BIN) + "/mirolux-cli", words);
    if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
    return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
}

} // namespace mirolux::test
