// Lets calls that write fail: the n-th, or all from the n-th on, as a full or broken disk does. Only calls on
// regular files count. As a library for LD_PRELOAD it is told by the environment: PRISTINE_FAULT=n,
// PRISTINE_FAULT_ON=1; at its end it writes how many calls there were to the file PRISTINE_FAULT_COUNT.
// Linked into a test it is told by the functions of faults.h.

#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include "faults.h"

namespace {

std::atomic<long> calls{0};
std::atomic<long> fault_at = std::getenv("PRISTINE_FAULT") ? std::atol(std::getenv("PRISTINE_FAULT")) : 0;
std::atomic<bool> goes_on = std::getenv("PRISTINE_FAULT_ON") != nullptr;

bool fails(bool may_go_on = true) {
    const long n = ++calls;
    if (fault_at == 0) return false;
    if (n != fault_at && !(goes_on && may_go_on && n > fault_at)) return false;
    errno = n % 2 ? ENOSPC : EIO;
    return true;
}

bool regular(int fd) {
    struct stat st {};
    return fd > 2 && ::fstat(fd, &st) == 0 && S_ISREG(st.st_mode);
}

template <class F>
F real(const char* name) {
    return reinterpret_cast<F>(::dlsym(RTLD_NEXT, name));
}

struct AtEnd {
    ~AtEnd() {
        const char* path = std::getenv("PRISTINE_FAULT_COUNT");
        if (!path) return;
        char text[32];
        const int n = std::snprintf(text, sizeof text, "%ld\n", calls.load());
        const long fd = ::syscall(SYS_openat, AT_FDCWD, path, O_WRONLY | O_CREAT | O_TRUNC, 0644);
        ::syscall(SYS_write, fd, text, static_cast<std::size_t>(n));
        ::syscall(SYS_close, fd);
    }
} at_end;

}  // namespace

namespace pristine::test {

void fail_write(long n, bool on) {
    calls = 0;
    goes_on = on;
    fault_at = n;
}
long writes() {
    return calls;
}

}  // namespace pristine::test

extern "C" {

ssize_t write(int fd, const void* data, size_t n) {
    if (regular(fd) && fails()) return -1;
    return real<ssize_t (*)(int, const void*, size_t)>("write")(fd, data, n);
}
ssize_t pwrite(int fd, const void* data, size_t n, off_t at) {
    if (regular(fd) && fails()) return -1;
    return real<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite")(fd, data, n, at);
}
ssize_t pwrite64(int fd, const void* data, size_t n, off64_t at) {
    if (regular(fd) && fails()) return -1;
    return real<ssize_t (*)(int, const void*, size_t, off64_t)>("pwrite64")(fd, data, n, at);
}
int fsync(int fd) {
    if (regular(fd) && fails()) return -1;
    return real<int (*)(int)>("fsync")(fd);
}
int fdatasync(int fd) {
    if (regular(fd) && fails()) return -1;
    return real<int (*)(int)>("fdatasync")(fd);
}
int ftruncate(int fd, off_t n) {
    if (regular(fd) && fails()) return -1;
    return real<int (*)(int, off_t)>("ftruncate")(fd, n);
}
int ftruncate64(int fd, off64_t n) {
    if (regular(fd) && fails()) return -1;
    return real<int (*)(int, off64_t)>("ftruncate64")(fd, n);
}
int fchmod(int fd, mode_t mode) {
    if (regular(fd) && fails()) return -1;
    return real<int (*)(int, mode_t)>("fchmod")(fd, mode);
}
int mkostemp(char* name, int flags) {
    if (fails()) return -1;
    return real<int (*)(char*, int)>("mkostemp")(name, flags);
}
int mkostemp64(char* name, int flags) {
    if (fails()) return -1;
    return real<int (*)(char*, int)>("mkostemp64")(name, flags);
}
char* mkdtemp(char* name) {
    if (fails()) return nullptr;
    return real<char* (*)(char*)>("mkdtemp")(name);
}
// A disk that is full still renames: what was begun can be undone.
int rename(const char* a, const char* b) {
    if (fails(false)) return -1;
    return real<int (*)(const char*, const char*)>("rename")(a, b);
}
int renameat2(int d, const char* a, int e, const char* b, unsigned flags) {
    if (fails(false)) return -1;
    return real<int (*)(int, const char*, int, const char*, unsigned)>("renameat2")(d, a, e, b, flags);
}
size_t fwrite(const void* data, size_t size, size_t n, FILE* f) {
    if (regular(::fileno(f)) && fails()) return 0;
    return real<size_t (*)(const void*, size_t, size_t, FILE*)>("fwrite")(data, size, n, f);
}
int fflush(FILE* f) {
    if (f && regular(::fileno(f)) && fails()) return EOF;
    return real<int (*)(FILE*)>("fflush")(f);
}
int fclose(FILE* f) {
    // The file is closed all the same; what was in the buffer is lost.
    const bool lost =
        regular(::fileno(f)) && (::fcntl(::fileno(f), F_GETFL) & O_ACCMODE) != O_RDONLY && fails();
    const int kept = errno;
    const int result = real<int (*)(FILE*)>("fclose")(f);
    if (!lost) return result;
    errno = kept;
    return EOF;
}

}  // extern "C"
