<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Hosts\HostCommand;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Database\GtidState;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Instant;

/** Makes an order of what somebody said, and says what is missing. */
final readonly class DatabaseInput
{
    /**
     * @param  array<string, mixed>  $said  at, before, through, position, server, schema, in-place, tables, rows-of, reverse, skip,
     *     source-schema, command-before, command-after, limit, query, take-conflicts
     *
     * @throws InvalidArgumentException|CannotRestore
     */
    public static function order(Workload $workload, DatabasePoints $points, array $said): DatabaseOrder
    {
        $server = self::server($workload, (string) ($said['server'] ?? ''));
        $gtid = (string) ($said['rows-of'] ?? ($said['reverse'] ?? ''));
        $way = self::way($said);
        if ($gtid !== '') {
            GtidState::one($gtid);
        }
        $skip = array_values((array) ($said['skip'] ?? []));
        foreach ($skip as $one) {
            GtidState::one((string) $one);
            if ($points->transactions->byGtid((string) $one) === null) {
                throw CannotRestore::because("No log of {$workload->name} holds the transaction $one, which is to be left out.");
            }
        }
        $stop = self::stop($said, $gtid, $skip !== []);
        $tables = self::tables($said);
        $schemas = self::schemas($points, $said, $gtid, $tables, $way);
        $plain = new DatabaseOrder(
            $way,
            $server,
            $schemas,
            $tables === null ? null : array_column($tables, 1),
            $stop,
            array_map(strval(...), $skip),
            $gtid,
            '',
            self::command($said['command-before'] ?? null),
            self::command($said['command-after'] ?? null),
            max(1, (int) ($said['limit'] ?? 300)),
            DatabaseOrder::question((string) ($said['query'] ?? '')),
            (bool) ($said['take-conflicts'] ?? false),
        );

        return $plain->withSentence($plain->inWords($workload->name));
    }

    private static function server(Workload $workload, string $name): string
    {
        $name = $name === '' ? DatabaseServer::of($workload)->name ?? '' : $name;
        if ($name === '') {
            throw new InvalidArgumentException('Say with --server which server to restore to; "server list" shows those that are known.');
        }

        return DatabaseServer::query()->where('name', $name)->value('name') ??
            throw new InvalidArgumentException(
                "There is no server named \"$name\". Make it known with: kaiseki server add $name --host= --port= --user=",
            );
    }

    /** @param  array<string, mixed>  $said */
    private static function way(array $said): string
    {
        $ways = array_filter([
            DatabaseOrder::ROWS => isset($said['rows-of']),
            DatabaseOrder::REVERSE => isset($said['reverse']),
            DatabaseOrder::IN_PLACE => (bool) ($said['in-place'] ?? false),
            DatabaseOrder::BESIDE => isset($said['schema']),
        ]);
        if (count($ways) > 1) {
            throw new InvalidArgumentException('Only one of --schema, --in-place, --rows-of and --reverse can be done at a time.');
        }
        $way = (string) (array_key_first($ways) ?? '');
        if (isset($said['tables']) && in_array($way, ['', DatabaseOrder::BESIDE, DatabaseOrder::IN_PLACE], true)) {
            return DatabaseOrder::TABLES;
        }
        if ($way === '' && ($said['skip'] ?? []) !== []) {
            return DatabaseOrder::IN_PLACE;
        }

        return $way === ''
            ? throw new InvalidArgumentException(
                'Say how: --schema=NEW beside what is there, --in-place, --tables=..., --rows-of=GTID, --reverse=GTID, or --skip=GTID.',
            )
            : $way;
    }

    /** @param  array<string, mixed>  $said */
    private static function stop(array $said, string $gtid, bool $skips): Stop
    {
        $given = array_filter(
            [
                'at' => $said['at'] ?? null,
                'before' => $said['before'] ?? null,
                'through' => $said['through'] ?? null,
                'position' => $said['position'] ?? null,
            ],
            fn (mixed $value): bool => $value !== null && $value !== '',
        );
        if (count($given) > 1) {
            throw new InvalidArgumentException('Give one of --at, --before, --through and --position.');
        }
        $kind = array_key_first($given);
        if ($kind === null) {
            return match (true) {
                $gtid !== '' => Stop::before($gtid),
                $skips => Stop::newest(),
                default => throw new InvalidArgumentException(
                    'Say where to stop: --at=MOMENT, --before=GTID, --through=GTID or --position=FILE:POSITION.',
                ),
            };
        }
        $value = (string) $given[$kind];
        if ($gtid !== '' && ! ($kind === 'before' && $value === $gtid)) {
            throw new InvalidArgumentException(
                'The rows of a transaction come back as they were before it: no other place to stop can be given.',
            );
        }
        if ($kind === 'before' || $kind === 'through') {
            GtidState::one($value);
        }

        return match ($kind) {
            'at' => Stop::at(Instant::parse($value)),
            'before' => Stop::before($value),
            'through' => Stop::through($value),
            default => Stop::position(LogPosition::parse($value)),
        };
    }

    /**
     * @param  array<string, mixed>  $said
     * @return list<array{string|null, string}>|null schema, table
     */
    private static function tables(array $said): ?array
    {
        if (! isset($said['tables'])) {
            return null;
        }
        $tables = [];
        foreach (is_array($said['tables']) ? $said['tables'] : explode(',', (string) $said['tables']) as $name) {
            $parts = explode('.', trim((string) $name), 2);
            $tables[] = count($parts) === 2 ? [$parts[0], $parts[1]] : [null, $parts[0]];
        }
        if ($tables === [] || in_array('', array_column($tables, 1), true)) {
            throw new InvalidArgumentException('--tables names the tables, with commas between them.');
        }
        if (count(array_unique(array_filter(array_column($tables, 0)))) > 1) {
            throw new InvalidArgumentException('Tables of one schema at a time.');
        }

        return $tables;
    }

    /**
     * @param  array<string, mixed>  $said
     * @param  list<array{string|null, string}>|null  $tables
     * @return array<string, string>
     */
    private static function schemas(DatabasePoints $points, array $said, string $gtid, ?array $tables, string $way): array
    {
        $known = $points->schemas();
        $source = $said['source-schema'] ?? (array_values(array_filter(array_column($tables ?? [], 0)))[0] ?? null);
        if ($source !== null && ! $points->mayHold((string) $source)) {
            throw CannotRestore::because("No dump holds a schema named \"$source\". There are: ".implode(', ', $known).'.');
        }
        if ($gtid !== '') {
            $transaction =
                $points->transactions->byGtid($gtid) ??
                throw CannotRestore::because("No log of {$points->workload->name} holds the transaction $gtid.");
            $of = array_values(
                array_unique([
                    ...array_column($transaction->tables, 'schema'),
                    ...$transaction->tables === [] && $transaction->schema !== '' ? [$transaction->schema] : [],
                ]),
            );
            $of = $source === null ? $of : [(string) $source];

            return array_combine($of, $of);
        }
        if ($source === null) {
            if ($way === DatabaseOrder::IN_PLACE) {
                return $known === []
                    ? throw CannotRestore::because('No dump says which schemas it holds: say with --source-schema which one to restore.')
                    : array_combine($known, $known);
            }
            $source =
                count($known) === 1
                    ? $known[0]
                    : throw CannotRestore::because(
                        ($known === [] ? 'No dump says which schema it holds' : 'There are several schemas: '.implode(', ', $known)).
                            '. Say with --source-schema which one.',
                    );
        }
        $to = isset($said['schema']) ? Identifier::given((string) $said['schema']) : (string) $source;

        return [(string) $source => $to];
    }

    /** @return list<string> */
    private static function command(mixed $json): array
    {
        return $json === null || $json === '' ? [] : HostCommand::parse((string) $json);
    }
}
