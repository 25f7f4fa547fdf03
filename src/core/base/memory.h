// What the process holds in memory, how much it may hold, and where what does not fit is put.

#pragma once

#include <cstdint>
#include <filesystem>
#include <string>

namespace pristine {

/// Bytes resident now, and the most there ever was; 0 where the system does not tell.
struct ResidentMemory {
    std::uint64_t now = 0, peak = 0;
};
ResidentMemory resident_memory();

/// Bytes resident now, without the peak: cheap enough to ask often.
std::uint64_t resident_now();

/// How much the program may hold resident. Default: half of the machine's memory; PRISTINE_MEMORY ("6G") says
/// otherwise. Clouds that would not fit are kept in a file and looked into page by page.
std::uint64_t memory_budget();
/// At least 256 MiB are granted. Takes effect at once for clouds in files, for others when they are opened.
void set_memory_budget(std::uint64_t bytes);
/// Whether this many bytes more fit beside what is resident now.
bool fits_memory(std::uint64_t bytes);
/// "1536M", "1.5G", "800000": bytes; K, M, G, T are powers of 1024. Throws Error(Usage).
std::uint64_t parse_bytes(const std::string& text);
/// "1.5 GiB": for people.
std::string bytes_text(std::uint64_t bytes);

/// Where files without a name go that hold what does not fit in memory: PRISTINE_SCRATCH, else what was set,
/// if it is a folder that can be written; else the user's cache folder, made if missing; else the folder for
/// temporary files.
std::filesystem::path scratch_folder();
/// For files that are made from now on; empty: the usual one. From the main thread.
void set_scratch_folder(const std::filesystem::path&);

/// Makes freed page buffers go back to the system at once. Call first thing in main().
void give_freed_pages_back();

}  // namespace pristine
