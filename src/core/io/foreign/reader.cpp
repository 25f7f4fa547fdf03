#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <charconv>
#include <csignal>
#include <cstdlib>

#include "core/base/error.h"
#include "core/io/foreign/guarded.h"
#include "core/io/foreign/line_answer.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
namespace {

#if defined(__SANITIZE_ADDRESS__)
constexpr bool kSanitized = true;  // shadow memory counts, and is larger than any limit
#else
constexpr bool kSanitized = false;
#endif

void limit(double seconds, std::uint64_t bytes) {
    const auto set = [](__rlimit_resource what, rlim_t n) {
        const rlimit l{n, n};
        ::setrlimit(what, &l);
    };
    set(RLIMIT_CPU, static_cast<rlim_t>(seconds + 1));
    set(RLIMIT_CORE, 0);
    set(RLIMIT_FSIZE, 0);  // a reader writes nothing; that it tries to is no reason to end it
    std::signal(SIGXFSZ, SIG_IGN);
    if (!kSanitized) set(RLIMIT_DATA, bytes);
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
}

int answer(char kind, const std::string& text) {
    std::string all = kind + text;
    for (std::size_t at = 0; at < all.size();) {
        const ssize_t n = ::write(STDOUT_FILENO, all.data() + at, all.size() - at);
        if (n <= 0) return 1;
        at += static_cast<std::size_t>(n);
    }
    return kind == 'A' ? 0 : 1;
}

std::string done(const std::vector<std::string>& a) {
    if (a.size() == 4 && a[2] == "reference") return bytes_of(reference_of_ogr_lines_here(a[3]));
    if (a.size() == 5 && a[2] == "lines")
        return bytes_of(read_ogr_lines_here(a[3], std::strtod(a[4].c_str(), nullptr)));
    throw Error(ErrorCode::Usage, "This program is called by others");
}

}  // namespace

int reader_main(const std::vector<std::string>& a) {
    if (a.size() < 3) return 2;
    limit(std::strtod(a[0].c_str(), nullptr), std::strtoull(a[1].c_str(), nullptr, 10));
    try {
        return answer('A', done(a));
    } catch (const Error& e) {
        std::string sentence = e.what();
        if (!sentence.empty() && sentence.back() == '.') sentence.pop_back();
        return answer('E', std::to_string(static_cast<int>(e.code())) + sentence);
    } catch (const std::bad_alloc&) {
        return answer('E', std::to_string(static_cast<int>(ErrorCode::Memory)) +
                               "The file needs more memory than such a file should");
    } catch (const std::exception& e) {
        return answer('E', std::to_string(static_cast<int>(ErrorCode::Format)) + e.what());
    }
}

}  // namespace pristine::io
