// Faults that a test orders.

#pragma once

#include <cstddef>

namespace pristine::test {

/// The n-th write to a regular file from now on fails (write, fsync, rename and the like); `on`: all after it
/// too. 0: none. Starts counting anew.
void fail_write(long n, bool on = false);
/// How many there were since.
long writes();

/// The n-th allocation of this thread by operator new from now on fails, of those that ask for so many bytes
/// at least. 0: none. Starts counting anew.
void fail_allocation(long n, std::size_t least_bytes);
long allocations();

}  // namespace pristine::test
