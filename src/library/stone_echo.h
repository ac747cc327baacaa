/* SPDX-License-Identifier: MPL-2.0 */
/**
 * @file stone_echo.h
 * The engine of Stone Echo for games: what was tuned at the desk, heard in the game.
 *
 * A host opens a project, begins to play one of its levels in a layout, tells where its character and its things are and what
 * happens, lets the library decide step by step what is heard, and renders it in blocks of any size. The calls are those of the
 * protocol by which a running game is listened to (docs/osc.md).
 *
 * Threads: the library makes none. Of one player, stone_render() may be called on one thread, the host's audio thread, while
 * all other calls are made on another one, never two at a time. stone_render() neither allocates, locks, waits nor reads files.
 * Different players know nothing of each other. A project may be used by several players, and asked from any thread.
 *
 * Places are in metres, X east, Y north, Z up; angles in degrees, headings clockwise from north, pitches up, rolls to the
 * right; levels in decibels, 0 dB the recorded sound's own. Texts are UTF-8. Names are those of the document; ids do as well.
 *
 * Every struct begins with its size, which the host sets to sizeof: so that a later version can add to its end.
 */
#ifndef STONE_ECHO_H
#define STONE_ECHO_H

#include <stddef.h> /* NOLINT(modernize-deprecated-headers): it is C */
#include <stdint.h> /* NOLINT(modernize-deprecated-headers): likewise */

#if defined(STONE_ECHO_BUILD)
#define STONE_API __attribute__((visibility("default")))
#else
#define STONE_API
#endif

#ifdef __cplusplus
extern "C" {
#endif

/** Grows where something was added; a host that was built with a lower one still works. */
#define STONE_ABI 1

/** What became of a call. */
typedef enum stone_code {
    STONE_OK = 0,
    STONE_BAD_ARGUMENT = 1, /**< null, not finite, out of its range, or a struct of no known size */
    STONE_UNREADABLE = 2,   /**< a file that is not there, or not what it should be */
    STONE_NOT_THERE = 3,    /**< no level, layout, pattern, signal, ... is called so */
    STONE_FULL = 4,         /**< as many steps are decided as may be: render first */
    STONE_NO_MEMORY = 5,
    STONE_FAILED = 6 /**< something that should not happen */
} stone_code;

/** A document with the place of its sounds. Immutable. */
typedef struct stone_project stone_project;
/** A level that is played. */
typedef struct stone_player stone_player;

/** "0.1.0" */
STONE_API const char* stone_version(void);
/** The STONE_ABI that it was built as. */
STONE_API int stone_abi(void);
/** A code in words. Never null. */
STONE_API const char* stone_code_text(stone_code code);

/* --- Projects ------------------------------------------------------------------------------------------------------------- */

/**
 * Opens a project: its folder, its document, or a pack.
 *
 * @param path    where it is
 * @param project becomes the project, to be given to stone_close()
 * @param why     becomes one line that says what does not work; may be null
 * @param whySize its size in bytes; what is longer is cut off
 */
STONE_API stone_code stone_open(const char* path, stone_project** project, char* why, size_t whySize);
/** Players that were made of it play on. Null does nothing. */
STONE_API void stone_close(stone_project* project);

STONE_API const char* stone_project_name(const stone_project* project);
STONE_API size_t stone_level_count(const stone_project* project);
/** The name of a level; null where there is none of this number. */
STONE_API const char* stone_level_name(const stone_project* project, size_t level);
STONE_API size_t stone_walk_count(const stone_project* project, size_t level);
STONE_API const char* stone_walk_name(const stone_project* project, size_t level, size_t walk);
/** How long a walk takes, seconds; below 0 where there is no such walk. */
STONE_API double stone_walk_seconds(const stone_project* project, size_t level, size_t walk);

/* --- Players -------------------------------------------------------------------------------------------------------------- */

/** How often the engine decides: once in so many frames, whatever the host's block is. */
#define STONE_STEP_FRAMES 256

typedef struct stone_options {
    size_t size;        /**< sizeof(stone_options) */
    const char* level;  /**< null: the first one */
    const char* layout; /**< "mono", "stereo", "quad", "5.1", "7.1", "7.1.4", "binaural", "ambisonics-1", ...; null: stereo */
    int rate;           /**< frames per second, 44100 to 192000; 0: 48000 */
} stone_options;

/**
 * Begins to play a level: reads its geometry and its sounds, which takes as long as that.
 *
 * @param options null: the first level, in stereo, at 48 kHz
 */
STONE_API stone_code stone_play(const stone_project* project, const stone_options* options, stone_player** player, char* why,
                                size_t whySize);
/** Not while stone_render() runs. Null does nothing. */
STONE_API void stone_stop(stone_player* player);

/** How many channels stone_render() writes. */
STONE_API size_t stone_channels(const stone_player* player);
/** The level starts again: all sounds from their beginning, at the next step that is decided. */
STONE_API stone_code stone_restart(stone_player* player);

/* --- What goes on --------------------------------------------------------------------------------------------------------- */

typedef struct stone_pose {
    double x, y, z;
    double heading, pitch, roll;
} stone_pose;

/** Where the character's feet are at the end of the next step that is decided. More than 20 m at once is a leap. */
STONE_API stone_code stone_character(stone_player* player, const stone_pose* feet);
/** Where whoever listens has the ears; null: where the project's rig has them, which is how it begins. */
STONE_API stone_code stone_ears(stone_player* player, const stone_pose* ears);
/** Where the camera is; null: where the project's rig has it, which is how it begins. */
STONE_API stone_code stone_camera(stone_player* player, const stone_pose* camera);
/** Where a thing is: one that appeared, an emitter of the document, or what something rides on. */
STONE_API stone_code stone_thing(stone_player* player, const char* name, const stone_pose* pose);
/** Something more is there: a copy of a pattern. One of this name that is there already is replaced. */
STONE_API stone_code stone_appear(stone_player* player, const char* name, const char* pattern, const stone_pose* pose);
/** It is not there any more. */
STONE_API stone_code stone_gone(stone_player* player, const char* name);
STONE_API stone_code stone_signal(stone_player* player, const char* name);
STONE_API stone_code stone_value(stone_player* player, const char* name, double value);
/** How far an opening stands open, 0 to 1. */
STONE_API stone_code stone_opening(stone_player* player, const char* name, double share);
/** The character takes a step on a material; null: on what is below it. From then on the library makes none of its own. */
STONE_API stone_code stone_step(stone_player* player, const char* material);
/** "jump", "land", "fall", "reset" or "use". */
STONE_API stone_code stone_act(stone_player* player, const char* act);
/**
 * Puts the character where a walk has it at a time, and does what happens on it in the step that ends then: what a host does
 * who plays walks of the document.
 */
STONE_API stone_code stone_along_walk(stone_player* player, const char* walk, double time_s);

/* --- Deciding and rendering ----------------------------------------------------------------------------------------------- */

/**
 * Decides the next step: what is heard of everything. At most some steps may be decided that are not rendered yet: STONE_FULL
 * says so and does nothing. May allocate.
 */
STONE_API stone_code stone_decide(stone_player* player);
/** How many steps are decided and not taken up yet by stone_render(). Any thread. */
STONE_API size_t stone_ahead(const stone_player* player);
/**
 * The next frames, channels interleaved, 32 bit floats around +-1. Where a step was not decided in time what was goes on.
 *
 * @param interleaved room for frames times stone_channels() numbers
 */
STONE_API stone_code stone_render(stone_player* player, float* interleaved, size_t frames);
/**
 * Fetches from the disk what streamed sounds need next, and lets go what is not needed any more: now and then, ten times a
 * second will do. May wait for the disk.
 */
STONE_API stone_code stone_stream(stone_player* player);

/* --- What is heard -------------------------------------------------------------------------------------------------------- */

typedef struct stone_heard {
    size_t size; /**< sizeof(stone_heard) */
    const char*
        name; /**< of the emitter; until the next call of stone_decide(), stone_appear(), stone_gone() or stone_thing() */
    double level_db;   /**< at the ears; minus infinity: silent */
    double distance_m; /**< from the ears */
    double azimuth;    /**< to the right of ahead */
    double elevation;
    int audible; /**< whether it is mixed, or would be if there were room */
} stone_heard;

/** How many things are in reach at the step that was decided last, each start for itself. */
STONE_API size_t stone_heard_count(const stone_player* player);
STONE_API stone_code stone_heard_at(const stone_player* player, size_t index, stone_heard* heard);

typedef struct stone_term {
    size_t size;      /**< sizeof(stone_term) */
    const char* name; /**< "distance", "walls", ...; for ever */
    double db;        /**< what it adds; minus infinity: it alone makes it silent */
} stone_term;

/** Of how many terms the level of one of them is the sum. */
STONE_API size_t stone_term_count(const stone_player* player, size_t index);
STONE_API stone_code stone_term_at(const stone_player* player, size_t index, size_t term, stone_term* out);

typedef struct stone_counts {
    size_t size;         /**< sizeof(stone_counts) */
    double time_s;       /**< of the level, at the end of the last step */
    size_t emitters;     /**< of the level, with what appeared and what rules put there */
    size_t inReach;      /**< at the last step */
    size_t sounding;     /**< that are mixed */
    size_t gaveWay;      /**< for which there was no room */
    uint64_t lateSteps;  /**< that were not decided in time, since the beginning */
    uint64_t starved;    /**< times that a streamed sound did not come in time */
    double decide_share; /**< of real time that deciding took over the last half second; 0: not known yet */
    double mix_share;    /**< and mixing */
} stone_counts;

STONE_API stone_code stone_count(const stone_player* player, stone_counts* counts);

/* --- Asking without playing ----------------------------------------------------------------------------------------------- */

/**
 * What would be heard of an emitter for ears at a place, as if everything sounded: what `stone-echo-cli probe` says.
 *
 * @param terms   becomes the first of its terms; may be null
 * @param most    of them, at most
 * @param count   becomes how many there are; may be null
 */
STONE_API stone_code stone_probe(const stone_player* player, const char* emitter, const stone_pose* ears, stone_heard* heard,
                                 stone_term* terms, size_t most, size_t* count);

#ifdef __cplusplus
}
#endif

#endif
