// SPDX-License-Identifier: MIT
// The power goes while one types and saves: what was written and not flushed to the disk is lost, all of it or its
// newer part. This program has its own write and fsync, which libraries call in the place of the C library's: before
// each write they note what stood there, and the note is taken back where nothing was flushed since.
#include "tests/session/killed_sessions.h"
#include "tests/turns.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <sys/syscall.h>

#include <cstring>

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define JOLLYROW_SANITIZED 1
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
#define JOLLYROW_SANITIZED 1
#endif
#endif

namespace {

/// One line of the notes: what happened to a file, and what stood there before.
struct Note {
    enum What : std::uint32_t { Written = 1, Flushed = 2, Removed = 3 } what = Written;
    std::uint32_t pathBytes = 0, oldBytes = 0;
    std::int64_t offset = 0, oldSize = 0;
};

int notes = -1;  ///< the file of notes; -1: nothing is noted

[[maybe_unused]] std::string pathOf(int file) {
    char link[64], path[4096];
    snprintf(link, sizeof link, "/proc/self/fd/%d", file);
    const ssize_t length = readlink(link, path, sizeof path);
    return length > 0 && path[0] == '/' ? std::string(path, static_cast<std::size_t>(length)) : std::string();
}

[[maybe_unused]] void note(Note::What what, const std::string& path, std::int64_t offset, std::size_t bytes, int file) {
    if (notes < 0 || path.empty() || path.compare(0, 5, "/dev/") == 0) return;
    Note line;
    line.what = what;
    line.pathBytes = static_cast<std::uint32_t>(path.size());
    line.offset = offset;
    std::string old;
    if (what == Note::Written) {
        struct stat status {};
        if (fstat(file, &status) != 0 || !S_ISREG(status.st_mode)) return;
        line.oldSize = status.st_size;
        if (offset < status.st_size) {
            old.resize(std::min(bytes, static_cast<std::size_t>(status.st_size - offset)));
            const int again = static_cast<int>(syscall(SYS_openat, AT_FDCWD, path.c_str(), O_RDONLY | O_CLOEXEC));
            const long got = syscall(SYS_pread64, again, old.data(), old.size(), offset);
            syscall(SYS_close, again);
            old.resize(got > 0 ? static_cast<std::size_t>(got) : 0);
        }
    }
    line.oldBytes = static_cast<std::uint32_t>(old.size());
    std::string whole(reinterpret_cast<const char*>(&line), sizeof line);
    whole += path + old;
    syscall(SYS_write, notes, whole.data(), whole.size());  // one call: whole or not at all
}

/// Takes back what was not flushed: all of it, or what came after some moment.
int dropUnflushed(const QString& notesPath, std::mt19937& dice) {
    QFile file(notesPath);
    if (!file.open(QFile::ReadOnly)) return 0;
    const QByteArray all = file.readAll();
    struct Old {
        Note line;
        QByteArray bytes;
    };
    std::map<std::string, std::vector<Old>> open;
    for (qsizetype at = 0; at + static_cast<qsizetype>(sizeof(Note)) <= all.size();) {
        Note line;
        std::memcpy(&line, all.constData() + at, sizeof line);
        at += sizeof line;
        const std::string path(all.constData() + at, line.pathBytes);
        at += line.pathBytes;
        const QByteArray old = all.mid(at, line.oldBytes);
        at += line.oldBytes;
        if (line.what == Note::Written)
            open[path].push_back({line, old});
        else
            open.erase(path);
    }
    int dropped = 0;
    for (auto& [path, written] : open) {
        const std::size_t keep = dice() % 3 == 0 ? dice() % written.size() : 0;
        const int target = ::open(path.c_str(), O_RDWR | O_CLOEXEC);
        if (target < 0) continue;
        for (std::size_t i = written.size(); i > keep; --i) {
            const Old& old = written[i - 1];
            if (!old.bytes.isEmpty() &&
                ::pwrite(target, old.bytes.constData(), static_cast<std::size_t>(old.bytes.size()), old.line.offset) !=
                    old.bytes.size())
                qFatal("the disk could not be made as it was");
            if (::ftruncate(target, old.line.oldSize) != 0) qFatal("the file could not be cut");
            ++dropped;
        }
        ::close(target);
    }
    return dropped;
}

}  // namespace

#ifndef JOLLYROW_SANITIZED
extern "C" {

ssize_t write(int file, const void* bytes, size_t count) {
    if (notes >= 0) {
        struct stat status {};
        const bool appends = (fcntl(file, F_GETFL) & O_APPEND) != 0;
        const off_t at = appends && fstat(file, &status) == 0 ? status.st_size : lseek(file, 0, SEEK_CUR);
        if (at >= 0) note(Note::Written, pathOf(file), at, count, file);
    }
    return syscall(SYS_write, file, bytes, count);
}

ssize_t pwrite64(int file, const void* bytes, size_t count, off64_t offset) {
    note(Note::Written, notes < 0 ? std::string() : pathOf(file), offset, count, file);
    return syscall(SYS_pwrite64, file, bytes, count, offset);
}

int ftruncate64(int file, off64_t length) noexcept {
    if (notes >= 0) {
        struct stat status {};
        if (fstat(file, &status) == 0 && length < status.st_size)
            note(Note::Written, pathOf(file), length, static_cast<std::size_t>(status.st_size - length), file);
    }
    return static_cast<int>(syscall(SYS_ftruncate, file, length));
}

int fsync(int file) {
    const int done = static_cast<int>(syscall(SYS_fsync, file));
    if (done == 0 && notes >= 0) note(Note::Flushed, pathOf(file), 0, 0, file);
    return done;
}

int fdatasync(int file) {
    const int done = static_cast<int>(syscall(SYS_fdatasync, file));
    if (done == 0 && notes >= 0) note(Note::Flushed, pathOf(file), 0, 0, file);
    return done;
}

// Names are the file system's own affair: what is removed or put in another's place is so at once.
int unlink(const char* path) noexcept {
    const int done = static_cast<int>(syscall(SYS_unlink, path));
    if (done == 0 && notes >= 0) note(Note::Removed, path, 0, 0, -1);
    return done;
}

}  // extern "C"
#endif

using namespace jollyrow;

class PowerCutTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The notes do what they say: what was flushed stays, what was not goes.
    void whatIsNotFlushedIsLost() {
#ifdef JOLLYROW_SANITIZED
        QSKIP("The sanitizers have their own write and fsync.");
#endif
        QTemporaryDir folder;
        const QString path = folder.filePath("a"), other = folder.filePath("b"), log = folder.filePath("notes");
        const pid_t child = fork();
        if (child == 0) {
            begin(log);
            const int one = ::open(path.toLocal8Bit().constData(), O_RDWR | O_CREAT, 0600);
            if (::write(one, "kept for good", 13) != 13 || fsync(one) != 0) _exit(1);
            if (::write(one, " and lost", 9) != 9 || ::pwrite64(one, "LOST", 4, 0) != 4) _exit(1);
            const int two = ::open(other.toLocal8Bit().constData(), O_RDWR | O_CREAT | O_APPEND, 0600);
            if (::write(two, "x", 1) != 1 || fdatasync(two) != 0 || ::write(two, "y", 1) != 1) _exit(1);
            if (ftruncate64(two, 0) != 0) _exit(1);
            _exit(0);
        }
        int status = 0;
        waitpid(child, &status, 0);
        QCOMPARE(WEXITSTATUS(status), 0);
        std::mt19937 always(1);
        while (dropUnflushed(log, always) < 4) {
        }  // in part at times: until all of it is gone
        QCOMPARE(read(path), QByteArray("kept for good"));
        QCOMPARE(read(other), QByteArray("x"));
    }

    void nothingSureIsLost() {
#ifdef JOLLYROW_SANITIZED
        QSKIP("The sanitizers have their own write and fsync.");
#endif
        std::mt19937 dice(11), cut(12);
        int dropped = 0;
        killAndJudge(
            test::turns(40), dice, [](const QTemporaryDir& folder) { begin(folder.filePath("notes")); },
            [&](const QTemporaryDir& folder) { dropped += dropUnflushed(folder.filePath("notes"), cut); });
        qInfo("%d writes had not been flushed and were lost", dropped);
        QVERIFY(dropped > 5);
    }

  private:
    static void begin(const QString& log) {
        notes = static_cast<int>(syscall(SYS_openat, AT_FDCWD, log.toLocal8Bit().constData(),
                                         O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0600));
    }
    static QByteArray read(const QString& path) {
        QFile file(path);
        return file.open(QFile::ReadOnly) ? file.readAll() : QByteArray("no file");
    }
};

QTEST_APPLESS_MAIN(PowerCutTest)
#include "power_cut_test.moc"
