<?php

declare(strict_types=1);

namespace App\Demo;

/** The invented people of Sorrel Sound Ferries. */
final class People
{
    public const PASSWORD = 'tide-table-9';

    /** @var list<array{string, string, string, list<string>, 4?: list<string>}> name, address, role, groups (none for all), duties */
    public const ALL = [
        ['Ines Varga', 'ines@sorrelsound.example', 'operator', [], ['law']],
        ['Tomas Reed', 'tomas@sorrelsound.example', 'operator', ['crew office']],
        ['Oona Brandt', 'oona@sorrelsound.example', 'requester', []],
        ['Milo Aske', 'milo@sorrelsound.example', 'requester', []],
        ['Petra Lund', 'petra@sorrelsound.example', 'approver', [], ['law']],
        ['Sven Okoro', 'sven@sorrelsound.example', 'auditor', []],
        ['Runa Holt', 'runa@sorrelsound.example', 'administrator', []],
    ];
}
