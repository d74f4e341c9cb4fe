<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Databases\Order\CheckedServer;
use App\Kinds\Databases\Order\Committed;
use App\Kinds\Databases\Order\DatabaseChecks;
use App\Kinds\Databases\Order\DatabaseInput;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Order\SetReading;
use App\Kinds\Databases\Rows\RowPreview;
use App\Kinds\Databases\Rows\RowSchema;
use App\Kinds\Databases\Run\DatabaseCarrier;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\WaitAtTerminal;
use App\Sets\CannotPlan;
use App\Words;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for a database. */
final readonly class DatabaseRestore
{
    private const OPTIONS = [
        'at',
        'before',
        'through',
        'position',
        'server',
        'schema',
        'tables',
        'rows-of',
        'reverse',
        'source-schema',
        'command-before',
        'command-after',
        'limit',
        'query',
    ];

    public static function describe(Command $command): void
    {
        $command
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'as it was at this moment: what was committed before it')
            ->addOption('before', null, InputOption::VALUE_REQUIRED, 'right before the transaction of this GTID')
            ->addOption('in-place', null, InputOption::VALUE_NONE, 'in place of what is there now, which is kept aside')
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'seconds that each command may take')
            ->addOption('through', null, InputOption::VALUE_REQUIRED, 'with the transaction of this GTID as the last one')
            ->addOption('position', null, InputOption::VALUE_REQUIRED, 'up to FILE:POSITION of the binary logs')
            ->addOption('server', null, InputOption::VALUE_REQUIRED, 'a server made known with "server add"')
            ->addOption('schema', null, InputOption::VALUE_REQUIRED, 'into a new schema of this name, touching nothing that is there')
            ->addOption('source-schema', null, InputOption::VALUE_REQUIRED, 'the schema to restore, where there are several')
            ->addOption(
                'tables',
                null,
                InputOption::VALUE_REQUIRED,
                'these tables only; with --schema beside, else in place of the live ones',
            )
            ->addOption('rows-of', null, InputOption::VALUE_REQUIRED, 'the rows that the transaction of this GTID touched, by their keys')
            ->addOption('reverse', null, InputOption::VALUE_REQUIRED, 'reverse the transaction of this GTID from the rows in the log')
            ->addOption(
                'skip',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'leave the transaction of this GTID out while rolling forward',
            )
            ->addOption('take-conflicts', null, InputOption::VALUE_NONE, 'by rows: also rows that somebody changed since')
            ->addOption(
                'command-before',
                null,
                InputOption::VALUE_REQUIRED,
                'a command, as a JSON list, run before anything is put in place',
            )
            ->addOption('command-after', null, InputOption::VALUE_REQUIRED, 'a command, as a JSON list, run at the end')
            ->addOption(
                'no-wait',
                null,
                InputOption::VALUE_NONE,
                'do not wait for a cartridge from the shelf: the run goes on by itself when it is there',
            )
            ->addOption(
                'query',
                null,
                InputOption::VALUE_REQUIRED,
                'a SELECT that is run before and after, with its answers kept in the proof',
            );
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    public static function carryOut(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        $said = [
            'skip' => $input->getOption('skip'),
            'in-place' => $input->getOption('in-place'),
            'take-conflicts' => $input->getOption('take-conflicts'),
        ];
        foreach (self::OPTIONS as $option) {
            $said[$option] = $input->getOption($option);
        }
        [$rule, $demands] = [KaisekiCommand::copyRule($input), Demands::parse((string) $input->getOption('demand'))];
        $reading = new SetReading($workload, $rule, $demands);
        $rule->mustName($reading->points()->storeNames());
        $points = new DatabasePoints($workload, $reading);
        $order = DatabaseInput::order($workload, $points, array_filter($said, fn (mixed $value): bool => $value !== null))->withReading(
            $rule,
            $demands,
        );
        $reaches = $points->forOrder($order);
        $checks = DatabaseChecks::of($order, $reaches);
        if ($input->getOption('dry-run')) {
            return self::tellPlan($workload, $points, $order, $reaches, $checks);
        }
        if ($checks->blockers() !== []) {
            return new Told(
                KaisekiCommand::BLOCKED,
                ['error' => implode(' ', $checks->blockers()), 'checks_before' => CheckLine::kept($checks->lines)],
                fn (): array => $checks->blockers(),
            );
        }
        $marked = $order->isInPlace() || $order->isByRows() ? TouchedServer::by($order)->marked() : [];
        if ($marked !== []) {
            throw CannotPlan::because(
                "changing anything of {$marked[0]->name} in place waits for a second person; ".'order it on the worksheet of a request',
            );
        }
        $run = self::make($workload, $order, $reaches);
        $carrier = new DatabaseCarrier($talk->progress(...));
        $carrier->carryOut($run);
        if ($run->refresh()->state === 'waiting' && ! $input->getOption('no-wait')) {
            WaitAtTerminal::until($run, $carrier, $talk);
        }

        return self::tell($run->refresh());
    }

    /** @param  list<Reach>  $reaches */
    public static function make(Workload $workload, DatabaseOrder $order, array $reaches): Run
    {
        $set = $reaches[0]->dump->id ?? $workload->sets()->whereNotNull('facts')->orderByDesc('instant')->value('id');

        return Run::query()->create([
            'workload_id' => $workload->id,
            'set_id' => $set,
            'state' => 'queued',
            'plan' => $order->toArray(),
            'is_whole' => $order->isWhole(),
        ]);
    }

    /**
     * @param  list<Reach>  $reaches
     */
    private static function tellPlan(
        Workload $workload,
        DatabasePoints $points,
        DatabaseOrder $order,
        array $reaches,
        CheckedServer $checks,
    ): Told {
        $until = $reaches[0]->until ?? null;
        $lost =
            $until === null || $order->isByRows()
                ? null
                : $points->transactions->after($until, array_map(strval(...), array_keys($order->schemas)));
        $rows = $order->isByRows() && $checks->blockers() === [] ? RowSchema::told(RowPreview::of($workload, $order)) : [];
        $last = $until === null ? null : $points->transactions->lastBefore($until);
        $document =
            [
                'run' => null,
                'order' => $order->sentence,
                'point' => $reaches[0]->dump->name ?? null,
                'way' => $order->way,
                'reached' => ['position' => $until?->text(), 'gtid' => $last?->gtid, 'at' => $last?->moment()],
                'reads' => array_map(
                    fn (Reach $reach): array => [
                        'set' => $reach->dump->name,
                        'logs' => array_map(fn ($log): string => $log->file, $reach->logs),
                        'log_bytes' => $reach->logBytes(),
                    ],
                    $reaches,
                ),
                'lost_after' => $lost === null ? null : self::lost($lost),
                'remarks' => $points->remarks,
                'checks_before' => CheckLine::kept($checks->lines),
                'blockers' => $checks->blockers(),
            ] + $rows;

        $code = $checks->blockers() === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED;

        return new Told($code, $document, fn (): iterable => self::planInWords($document));
    }

    /** @return array<string, mixed> */
    private static function lost(Committed $lost): array
    {
        return ['transactions' => $lost->transactions, 'tables' => array_map(get_object_vars(...), $lost->tables)];
    }

    /**
     * @param  array<string, mixed>  $document
     * @return iterable<string>
     */
    private static function planInWords(array $document): iterable
    {
        yield $document['order'];
        foreach (CheckLine::all($document['checks_before']) as $check) {
            yield "  {$check->told()}";
        }
        foreach ($document['remarks'] as $remark) {
            yield "  $remark";
        }
        if ($document['lost_after'] !== null) {
            yield "Lost after it: {$document['lost_after']['transactions']} transactions.";
            foreach (array_slice($document['lost_after']['tables'], 0, 20) as $table => $of) {
                yield "  $table: +{$of['inserted']} ~{$of['updated']} -{$of['deleted']}";
            }
        }
        $what = [];
        foreach ($document['rows'] ?? [] as $verdict => $count) {
            $what[] = "$count ".str_replace('_', ' ', $verdict);
        }
        if ($what !== []) {
            yield implode(', ', $what);
        }
        yield 'Nothing was done.';
    }

    public static function tell(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        $left = array_map(
            fn (array $one): array => [
                'path' => $one['table'].
                    (isset($one['key']) ? ' '.json_encode($one['key'], JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE) : ''),
                'because' => $one['because'],
            ],
            [...$outcome['conflicts'] ?? [], ...$outcome['impossible'] ?? []],
        );
        $document =
            [
                'run' => $run->id,
                'point' => $run->set_name,
                'state' => $run->state,
                'order' => $run->plan['sentence'],
                'reached' => $outcome['reached'] ?? null,
                'entries' => $outcome['rows_restored'] ?? 0,
                'rows' => $outcome['rows_restored'] ?? 0,
                'tables' => $outcome['tables_restored'] ?? 0,
                'bytes' => array_sum(array_column($outcome['read'] ?? [], 'bytes')),
                'seconds' => $run->seconds() ?? 0.0,
                'checks' => $outcome['checks'] ?? [],
                'left_out' => $left,
                'conflicts' => $outcome['conflicts'] ?? [],
                'row_changes' => $outcome['by_table'] ?? [],
                'contents' => $outcome['contents'] ?? [],
                'remarks' => $outcome['remarks'] ?? [],
                'query' => $outcome['query'] ?? null,
                'set_aside_until' => $run->set_aside_until?->format('Y-m-d\TH:i:s\Z'),
                'estimate_seconds' => $run->estimate,
                'waits_for' => $run->waits_for ?? [],
            ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);

        $code = match (true) {
            $run->state === 'waiting' => KaisekiCommand::BLOCKED,
            default => $run->state === 'done' && ($outcome['right'] ?? false) ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
        };

        return new Told($code, $document, fn (): iterable => self::inWords($run, $document));
    }

    /**
     * @param  array<string, mixed>  $document
     * @return iterable<string>
     */
    private static function inWords(Run $run, array $document): iterable
    {
        if ($run->state !== 'done') {
            yield $run->state === 'waiting'
                ? "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).', and goes on by itself.'
                : "Run {$run->id} {$run->state}: {$run->failure}";

            return;
        }
        yield sprintf(
            'Run %d: %s in %s in %s, from %s.',
            $run->id,
            Words::count($document['rows'], 'row'),
            Words::count($document['tables'], 'table'),
            Words::duration($document['seconds']),
            $run->set_name,
        );
        foreach (CheckLine::all($document['checks']) as $check) {
            yield "  {$check->told()}";
        }
        foreach ($document['remarks'] as $remark) {
            yield "  $remark";
        }
        foreach (array_slice($document['left_out'], 0, 20) as $left) {
            yield "  left: {$left['path']}: {$left['because']}";
        }
    }
}
