<?php

declare(strict_types=1);

namespace App\Models;

/** What an alarm is about. */
enum AlarmSort: string
{
    /** A run was begun without the second person. */
    case Override = 'override';
    /** The trail is not as it was sealed. */
    case Trail = 'trail';
    /** A point is in doubt. */
    case Doubt = 'doubt';
    /** A promise is broken: nothing can be had, it is too old, or takes too long. */
    case Promise = 'promise';
    /** A run failed, or what came back is not all right. */
    case Run = 'run';
    /** A run waits for something. */
    case Wait = 'wait';
    /** A cartridge is to be fetched. */
    case Cartridge = 'cartridge';

    public function words(): string
    {
        return match ($this) {
            self::Override => 'begun without a second person',
            self::Trail => 'the trail',
            self::Doubt => 'in doubt',
            self::Promise => 'a promise is broken',
            self::Run => 'a run ended badly',
            self::Wait => 'a run waits',
            self::Cartridge => 'a cartridge to fetch',
        };
    }
}
