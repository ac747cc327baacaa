include(${CMAKE_CURRENT_LIST_DIR}/StoneEchoTargets.cmake)
