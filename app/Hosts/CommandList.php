<?php

declare(strict_types=1);

namespace App\Hosts;

use App\Instance;
use Kaiseki\Core\Host\HostIsSilent;
use Kaiseki\Core\Host\Wire;

/** The commands that root allowed on this machine, each with the account that it is run as. Behind walls there are no others. */
final class CommandList
{
    /** @return list<array{string, string}> account and command, as a JSON list of arguments */
    public static function all(): array
    {
        $all = [];
        foreach (@file(Instance::path('allowed'), FILE_IGNORE_NEW_LINES) ?: [] as $line) {
            [$account, $json] = [...explode("\t", $line, 2), ''];
            $all[] = [$account, $json];
        }

        return $all;
    }

    /** @param  list<string>  $command */
    public static function json(array $command): string
    {
        return (string) json_encode($command, JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE);
    }

    /**
     * Has a command run by its account.
     *
     * @param  list<string>  $command
     * @param  string  $input  what it reads; '' for nothing
     * @return array{string, string} how it ended (nothing if not by itself), and what it said
     */
    public static function run(array $command, string $folder, int $limit, string $input = ''): array
    {
        $json = self::json($command);
        $account = array_column(self::all(), 0, 1)[$json] ?? null;
        if ($account === null) {
            return ['', "It is not allowed on this machine. Root does that: bin/kaiseki commands allow '$json' ACCOUNT"];
        }
        try {
            $wire = Wire::to(Instance::path("commands/$account/socket"));
            $wire->send([$json, $folder, (string) $limit, $input]);
            [$exit, $output] = [...$wire->receive(), '', ''];

            return [$exit, $output];
        } catch (HostIsSilent $silent) {
            return ['', $silent->getMessage()];
        }
    }
}
