<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\RunFiles;
use App\Runs\WaitAtTerminal;
use App\Sets\CannotPlan;
use App\Trees\Run\LongList;
use App\Trees\Run\RunCarrier;
use App\Trees\Run\TouchedFolder;
use App\Trees\Run\TreeCarrier;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Input\InputInterface;

/** `restore` for files. */
final class FilesRestore
{
    public static function carryOut(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        $paths =
            $input->getOption('path') === []
                ? throw new InvalidArgumentException('Say with --path what to bring back; --path=/ is the whole tree.')
                : KaisekiCommand::paths($input);
        $order = OrderFromInput::read($input, $workload, $paths, KaisekiCommand::copyRule($input));
        $plan = $input->getOption('set-first') ? $order->plan->withSetFirst() : $order->plan;
        [$point, $reading, $best] = [$order->point, $order->reading, $order->planned->best];
        if ($input->getOption('dry-run')) {
            $document = [
                'run' => null,
                'point' => $point->name,
                'order' => $plan->sentence,
                'entries' => $reading->entries,
                'bytes' => $reading->bytes,
                'missing' => $reading->missing,
            ];

            return new Told(
                KaisekiCommand::DONE,
                $document + ($best === null ? [] : SalvageList::rows($best)),
                fn (): array => [$plan->sentence, 'Nothing was done.'],
            );
        }
        self::refuseWithoutApproval($order);
        $run = Run::query()->create([
            'workload_id' => $workload->id,
            'set_id' => $point->id,
            'state' => 'queued',
            'plan' => $plan->toArray(),
            'is_whole' => in_array('', $plan->paths, true),
        ]);
        $carrier = new RunCarrier(fn (int $files, int $bytes) => $talk->progress(number_format($files).' files, '.Words::size($bytes)));
        $carrier->carryOut($run, $order->planned, $reading);
        if ($run->refresh()->state === 'waiting' && ! $input->getOption('no-wait')) {
            WaitAtTerminal::until($run, new TreeCarrier($talk->progress(...)), $talk);
        }

        return self::tell($run, $talk);
    }

    /**
     * A marked workload's own place is not written over from a terminal, where nobody else sees the order first.
     *
     * @throws CannotPlan
     */
    private static function refuseWithoutApproval(OrderFromInput $order): void
    {
        $plan = $order->plan;
        $marked = (new Touched([TouchedFolder::of($plan->hostModel(), $plan->target)]))->marked();
        if ($marked === []) {
            return;
        }
        $preview = new Preview($order->planned->order, $plan->look(), 0);
        foreach ($preview->lines() as $line) {
            if (in_array($line->deed, Deed::OF_PRESENT, true)) {
                throw CannotPlan::because(
                    "changing anything of {$marked[0]->name} in place waits for a second person; ".
                        'order it on the worksheet of a request',
                );
            }
        }
    }

    private static function tell(Run $run, Talk $talk): Told
    {
        $outcome = $run->outcome ?? [];
        $seconds = $run->seconds() ?? 0.0;
        if ($run->state !== 'done') {
            $talk->say(
                $run->state === 'waiting'
                    ? "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).', and goes on by itself.'
                    : (string) $run->failure,
            );
        }
        $document =
            [
                'run' => $run->id,
                'point' => $run->set_name,
                'state' => $run->state,
                'entries' => $outcome['entries'] ?? 0,
                'files' => $outcome['files'] ?? 0,
                'bytes' => $outcome['bytes'] ?? 0,
                'seconds' => $seconds,
                'estimate_seconds' => $run->estimate,
                'waits_for' => $run->waits_for ?? [],
                'checks' => $outcome['checks'] ?? [],
                'left_out' => $outcome['left_out'] ?? [],
                'left_out_count' => LongList::count($outcome, LongList::LEFT_OUT),
                'differences' => $outcome['differences'] ?? [],
                'difference_count' => LongList::count($outcome, LongList::DIFFERENCES),
                'from_other_points' => $outcome['from_other_points'] ?? [],
            ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $lines = function () use ($run, $outcome, $seconds): iterable {
            if ($run->state !== 'done') {
                return;
            }
            yield sprintf(
                'Run %d: %s, %s in %s, from %s.',
                $run->id,
                Words::count($outcome['files'], 'file'),
                Words::size($outcome['bytes']),
                Words::duration($seconds),
                $run->set_name,
            );
            foreach (CheckLine::all($outcome['checks']) as $check) {
                yield "  {$check->result}: {$check->check}";
            }
            foreach (array_slice($outcome['left_out'], 0, 20) as $left) {
                yield "  left out: {$left['path']}: {$left['because']}";
            }
            $left = LongList::count($outcome, LongList::LEFT_OUT);
            if ($left > 20) {
                yield '  and '.number_format($left - 20).' more: '.
                    ($left > LongList::FIRST ? 'see '.RunFiles::longList($run, LongList::LEFT_OUT) : "see bin/kaiseki proof {$run->id}");
            }
        };
        $code = match (true) {
            $run->state === 'waiting' => KaisekiCommand::BLOCKED,
            default => $run->state === 'done' && $outcome['right'] ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
        };

        return new Told($code, $document, $lines);
    }
}
