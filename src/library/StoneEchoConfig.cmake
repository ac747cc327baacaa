# SPDX-License-Identifier: MPL-2.0
include(${CMAKE_CURRENT_LIST_DIR}/StoneEchoTargets.cmake)
