<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** Numbers of the NBD protocol (https://github.com/NetworkBlockDevice/nbd/blob/master/doc/proto.md, "Values"). */
final class NbdWords
{
    public const OPT_EXPORT_NAME = 1;

    public const OPT_ABORT = 2;

    public const OPT_LIST = 3;

    public const OPT_INFO = 6;

    public const OPT_GO = 7;

    public const OPT_STRUCTURED_REPLY = 8;

    public const OPT_LIST_META_CONTEXT = 9;

    public const OPT_SET_META_CONTEXT = 10;

    /** Those that a server of ours answers with more than that it does not know them; GO by the disk it names. */
    public const OPTIONS = [
        self::OPT_LIST, self::OPT_STRUCTURED_REPLY, self::OPT_LIST_META_CONTEXT, self::OPT_SET_META_CONTEXT,
    ];

    public const OPTION_REPLY = 0x0003E889045565A9;

    public const REP_ACK = 1;

    public const REP_SERVER = 2;

    public const REP_INFO = 3;

    public const REP_META_CONTEXT = 4;

    public const REP_ERROR = 1 << 31;

    public const ERR_UNSUPPORTED = self::REP_ERROR | 1;

    public const ERR_UNKNOWN = self::REP_ERROR | 6;

    public const INFO_EXPORT = 0;

    public const INFO_BLOCK_SIZE = 3;

    public const REQUEST = 0x25609513;

    public const READ = 0;

    public const WRITE = 1;

    public const DISCONNECT = 2;

    public const FLUSH = 3;

    public const TRIM = 4;

    public const CACHE = 5;

    public const WRITE_ZEROES = 6;

    public const STATUS = 7;

    public const SIMPLE_REPLY = 0x67446698;

    public const STRUCTURED_REPLY = 0x668E33EF;

    public const CHUNK_DATA = 1;

    public const CHUNK_HOLE = 2;

    public const CHUNK_STATUS = 5;

    public const CHUNK_ERROR = 1 << 15;
}
