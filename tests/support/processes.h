#pragma once
#include <QDir>
#include <QFile>
#include <QtGlobal>
#include <set>

namespace mirolux::test {

/// Rounds of a test that is repeated: a few in a plain run, many under ./run-tests --long.
inline int rounds(int few, int many) {
    return qEnvironmentVariableIntValue("MIROLUX_LONG") ? many : few;
}

/// Process ids of the workers that run on this machine.
inline std::set<int> workers() {
    std::set<int> found;
    for (const QString& name : QDir("/proc").entryList(QDir::Dirs)) {
        QFile comm("/proc/" + name + "/comm"), stat("/proc/" + name + "/stat");
        if (!name.toInt() || !comm.open(QIODevice::ReadOnly) || comm.readAll().trimmed() != "mirolux-worker") continue;
        if (stat.open(QIODevice::ReadOnly) && !stat.readAll().contains(") Z ")) found.insert(name.toInt());
    }
    return found;
}

/// Files of ours in shared memory.
inline QStringList shared_memory_files() {
    return QDir("/dev/shm").entryList({"mirolux*"}, QDir::Files);
}

/// Resident memory of a process, MB; 0 if it is gone.
inline double resident_mb(int pid) {
    QFile file(QString("/proc/%1/statm").arg(pid));
    if (!file.open(QIODevice::ReadOnly)) return 0;
    return file.readAll().split(' ').value(1).toDouble() * 4096 / 1e6;
}

} // namespace mirolux::test
