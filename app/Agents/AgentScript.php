<?php

declare(strict_types=1);

namespace App\Agents;

use App\Line\LineKey;
use InvalidArgumentException;

/**
 * The one file that makes a machine send its sets: who its desk is, by what that is known, and its code; then resources/agent/agent.sh,
 * with resources/line/line.sh in it.
 */
final class AgentScript
{
    public const VERSION = '1';

    /**
     * @param  string  $desk  HOST:PORT, as the machine reaches the line of this desk
     * @param  string  $code  of a machine that may come
     *
     * @throws InvalidArgumentException if the address is none
     */
    public static function of(string $name, string $desk, string $code): string
    {
        $desk = self::checked($desk);
        $said = ['name' => $name, 'desk' => $desk, 'code' => $code, 'version' => self::VERSION,
            'certificate_text' => trim(LineKey::certificate()), 'key_text' => trim(LineKey::publicPem())];
        $head = "#!/bin/sh\n# Install it as root with: sh FILE install\n\n";
        foreach ($said as $variable => $value) {
            $head .= "$variable='".strtr($value, ["'" => ''])."'\n";
        }

        $line = (string) file_get_contents(resource_path('line/line.sh'));

        return "$head\n".str_replace("@LINE@\n", "$line\n", (string) file_get_contents(resource_path('agent/agent.sh')));
    }

    /** @throws InvalidArgumentException if it is no address */
    public static function checked(string $desk): string
    {
        return preg_match('/^([A-Za-z0-9.-]{1,200}|\[[0-9A-Fa-f:]{2,45}\]):[0-9]{1,5}$/D', $desk) === 1
            ? $desk
            : throw new InvalidArgumentException('The address of this desk is HOST:PORT, as that machine reaches it.');
    }
}
