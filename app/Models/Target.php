<?php

declare(strict_types=1);

namespace App\Models;

/** Something that orders reach, and that belongs to groups: a host, a store, a server. Models implement it, with BelongsToGroups. */
interface Target
{
    /** One word of small letters, as it stands in target_rights.type and before its name: host. */
    public static function sort(): string;

    public function id(): int;

    public function name(): string;

    /** Where it is, for whoever has to tell two apart: a folder, an address. */
    public function whereabouts(): string;

    /** @return list<Workload> those whose original lies there; none where nobody writes over an original by reaching it */
    public function originals(): array;
}
