// The full record of each point as it came in, in the order it came in.
//
// A cloud keeps in memory only what is shown and selected by. Everything else stays where it is (the file
// that was opened, or the project file) and is read in stretches when it is asked for: to export bit for bit,
// or to colour by it.

#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace pristine::cloud {

/// How a field of a record is stored.
enum class FieldType : std::uint8_t { U8, I8, U16, I16, U32, I32, U64, I64, F32, F64 };

/// 1, 2, 4 or 8.
std::size_t bytes_of(FieldType);
/// The name that projects and messages have for it.
const char* name_of(FieldType);
/// The opposite of name_of. Throws Error(Format) for an unknown name.
FieldType field_type(const std::string& name);

/// One number in a record. value = raw * scale + shift.
struct Field {
    std::string
        name;  ///< lower case, our own spelling where we know the meaning: x, y, z, intensity, red, class, …
    FieldType type = FieldType::U8;
    std::size_t offset = 0;      ///< bytes from the start of the record
    std::uint8_t first_bit = 0;  ///< of the raw integer, when it shares its bytes with others
    std::uint8_t bits = 0;       ///< 0: all of them
    double scale = 1, shift = 0;
    int decimals = -1;  ///< written in the text file that it came from; -1: not known
    /// Of a column of words (point names, codes, dates): what the values stand for; 0 is the first. Null:
    /// numbers.
    std::shared_ptr<const std::vector<std::string>> words{};
};

/// The value of the field in a record. 64-bit integers beyond 2^53 are rounded.
double value(const Field&, const std::byte* record);
/// What a value is called: its word, or empty when the column has none or the value names none.
std::string word_of(const Field&, double value);
/// Puts a value back: the nearest the type can hold; not-a-number becomes 0 in integers.
void put(const Field&, std::byte* record, double value);

/// Where the fields of a record are, as its file has them.
struct RecordLayout {
    std::string format;  ///< "las", "ply", "text": who can write these records back as they are
    std::size_t record_bytes = 0;
    std::vector<Field> fields;
    std::string
        head;  ///< what the format needs to write the file again (LAS: header, VLRs and EVLRs), as bytes

    const Field* find(const std::string& name) const;
};

/// Reads records of a cloud. Thread safe.
class RecordSource {
  public:
    virtual ~RecordSource() = default;
    virtual const RecordLayout& layout() const = 0;
    virtual std::uint64_t count() const = 0;
    /// Reads the records [first, first + out.size() / record_bytes). Throws Error(Io or Format).
    virtual void read(std::uint64_t first, std::span<std::byte> out) const = 0;
};

/// Records held in memory: for small generated clouds and tests.
class MemoryRecords : public RecordSource {
  public:
    MemoryRecords(RecordLayout layout, std::string bytes)
        : layout_(std::move(layout)), bytes_(std::move(bytes)) {}
    const RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return bytes_.size() / layout_.record_bytes; }
    void read(std::uint64_t first, std::span<std::byte> out) const override;

  private:
    RecordLayout layout_;
    std::string bytes_;
};

}  // namespace pristine::cloud
