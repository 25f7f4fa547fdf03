# The example of the README does what it says: a square of the demo scan goes, the rest is written.
set(dir ${CMAKE_CURRENT_BINARY_DIR}/minimal-test)
execute_process(COMMAND ${PRISTINE} demo ${dir} --size 20000 --force COMMAND_ERROR_IS_FATAL ANY OUTPUT_QUIET)
file(REMOVE ${dir}/out.las)
execute_process(COMMAND ${MINIMAL} ${dir}/chamber-station-1.las ${dir}/out.las COMMAND_ERROR_IS_FATAL ANY OUTPUT_VARIABLE said)
if(NOT said MATCHES "^([0-9]+) of ([0-9]+) points written" OR NOT CMAKE_MATCH_1 LESS CMAKE_MATCH_2)
  message(FATAL_ERROR "unexpected output: ${said}")
endif()
