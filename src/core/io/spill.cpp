#include "core/io/spill.h"

#include <utility>

namespace pristine::io {
namespace {

class SpilledRecords : public cloud::RecordSource {
  public:
    SpilledRecords(std::shared_ptr<const ScratchFile> file, cloud::RecordLayout layout, std::uint64_t count)
        : file_(std::move(file)), layout_(std::move(layout)), count_(count) {}
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        file_->read_at(first * layout_.record_bytes, out);
    }

  private:
    std::shared_ptr<const ScratchFile> file_;
    cloud::RecordLayout layout_;
    std::uint64_t count_;
};

}  // namespace

void SpillWriter::write(std::span<const std::byte> records) {
    file_->write_at(count_ * record_bytes_, records);
    count_ += records.size() / record_bytes_;
}

std::shared_ptr<const cloud::RecordSource> SpillWriter::finish(cloud::RecordLayout layout) {
    return std::make_shared<SpilledRecords>(std::move(file_), std::move(layout), count_);
}

}  // namespace pristine::io
