#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <charconv>
#include <csignal>
#include <cstdlib>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/io/3mf/three_mf.h"
#include "core/io/foreign/grid_answer.h"
#include "core/io/foreign/guarded.h"
#include "core/io/foreign/line_answer.h"
#include "core/io/foreign/mesh_answer.h"
#include "core/io/foreign/point_answer.h"
#include "core/io/glb/glb.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
namespace {

#if defined(__has_feature)
#define PRISTINE_SANITIZED __has_feature(address_sanitizer)
#elif defined(__SANITIZE_ADDRESS__)
#define PRISTINE_SANITIZED 1
#else
#define PRISTINE_SANITIZED 0
#endif
#if PRISTINE_SANITIZED
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

void write_all(const char* bytes, std::size_t n) {
    while (n > 0) {
        const ssize_t written = ::write(STDOUT_FILENO, bytes, n);
        if (written <= 0) ::_exit(1);  // who called is gone
        bytes += written;
        n -= static_cast<std::size_t>(written);
    }
}

// Small frames go out together.
class Output {
  public:
    ~Output() { flush(); }
    void frame(std::string_view bytes) {
        held_ += 'A';
        append_le(held_, static_cast<std::uint64_t>(bytes.size()));
        if (bytes.size() >= kAtOnce) {
            flush();
            write_all(bytes.data(), bytes.size());
            return;
        }
        held_ += bytes;
        if (held_.size() >= kAtOnce) flush();
    }
    int done() {
        held_ += 'Z';
        return 0;
    }
    int failed(ErrorCode code, const std::string& sentence) {
        held_ += 'E';
        held_ += static_cast<char>('0' + static_cast<int>(code));
        held_ += sentence;
        return 1;
    }

  private:
    static constexpr std::size_t kAtOnce = 1u << 16;
    void flush() {
        write_all(held_.data(), held_.size());
        held_.clear();
    }
    std::string held_;
};

std::string standard_input() {
    std::string all;
    char buffer[1 << 16];
    for (ssize_t n; (n = ::read(STDIN_FILENO, buffer, sizeof buffer)) > 0;)
        all.append(buffer, static_cast<std::size_t>(n));
    return all;
}

void answer(const std::vector<std::string>& a, const Frames& frames) {
    const std::string& what = a[2];
    if (a.size() == 4 && what == "reference") return frames(bytes_of(reference_of_ogr_lines_here(a[3])));
    if (a.size() == 5 && what == "lines")
        return frames(bytes_of(read_ogr_lines_here(a[3], std::strtod(a[4].c_str(), nullptr))));
    if (a.size() == 4 && what == "points") return frames(bytes_of(read_map_points_here(a[3])));
    if (a.size() == 4 && what == "grid") return give_grid(*open_grid_here(a[3]), frames);
    if (a.size() == 4 && what == "3mf") return frames(bytes_of(read_3mf_here(a[3])));
    if (a.size() == 4 && what == "glb") return frames(bytes_of(read_glb_here(a[3])));
    if (a.size() == 4 && what == "picture")
        return give_picture(decode_picture_here(standard_input(), a[3]), frames);
    if (a.size() == 5 && what == "orthophoto")
        return give_orthophoto(
            read_orthophoto_here(a[3], std::strtoull(a[4].c_str(), nullptr, 10), Progress::none()), frames);
    throw Error(ErrorCode::Usage, "This program is called by others");
}

}  // namespace

int reader_main(const std::vector<std::string>& a) {
    if (a.size() < 3) return 2;
    limit(std::strtod(a[0].c_str(), nullptr), std::strtoull(a[1].c_str(), nullptr, 10));
    Output out;
    try {
        answer(a, [&](std::string_view bytes) { out.frame(bytes); });
        return out.done();
    } catch (const Error& e) {
        std::string sentence = e.what();
        if (!sentence.empty() && sentence.back() == '.') sentence.pop_back();
        return out.failed(e.code(), sentence);
    } catch (const std::bad_alloc&) {
        return out.failed(ErrorCode::Memory, "The file needs more memory than such a file should");
    } catch (const std::exception& e) {
        return out.failed(ErrorCode::Format, e.what());
    }
}

}  // namespace pristine::io
