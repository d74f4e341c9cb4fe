<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** How far a machine has come since it was started; in order. */
enum BootStage: int
{
    case Firmware = 1;
    case Loader = 2;
    case Kernel = 3;
    case Prompt = 4;
    case Service = 5;

    public function words(): string
    {
        return match ($this) {
            self::Firmware => 'firmware',
            self::Loader => 'loader',
            self::Kernel => 'kernel',
            self::Prompt => 'prompt',
            self::Service => 'it answers',
        };
    }
}
