<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Databases\Terminal\DatabaseRestore;
use App\Kinds\Files\Terminal\OrderFromInput;
use App\Kinds\Files\Terminal\SalvageList;
use App\Models\Run;
use App\Models\Workload;
use App\People\TargetReach;
use App\Sets\CannotPlan;
use App\Trees\Run\RunCarrier;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\Preview;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Restore extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('restore')->setDescription('Brings files and folders back, or a database, and checks what came')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload');
        OrderFromInput::describe($this);
        DatabaseRestore::describe($this);
        $this->addOption('no-wait', null, InputOption::VALUE_NONE, 'do not wait for a cartridge from the shelf, or a store: the run goes on by itself when it is there')
            ->addOption('set-first', null, InputOption::VALUE_NONE, 'make a set of what is there now before anything is put in place')
            ->addOption('dry-run', null, InputOption::VALUE_NONE, 'only say what would be done');
        $this->addDemand();
        $this->addCopyRule();
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        if ($workload->kind === 'database') {
            [$code, $document, $lines] = DatabaseRestore::carryOut($workload, $input, $this->progress(...));
            $this->endProgress();
            $this->answer($document, $lines);

            return $code;
        }
        $paths = $input->getOption('path') === [] ? throw new InvalidArgumentException('Say with --path what to bring back; --path=/ is the whole tree.') : self::paths($input);
        $order = OrderFromInput::read($input, $workload, $paths, self::copyRule($input));
        $plan = $input->getOption('set-first') ? $order->plan->withSetFirst() : $order->plan;
        [$point, $reading, $best] = [$order->point, $order->reading, $order->planned->best];
        if ($input->getOption('dry-run')) {
            $this->answer(['run' => null, 'point' => $point->name, 'order' => $plan->sentence, 'entries' => $reading->entries, 'bytes' => $reading->bytes, 'missing' => $reading->missing] + ($best === null ? [] : SalvageList::rows($best)), fn (): array => [$plan->sentence, 'Nothing was done.']);

            return self::DONE;
        }
        self::refuseWithoutApproval($workload, $order);
        $run = Run::query()->create(['workload_id' => $workload->id, 'set_id' => $point->id, 'state' => 'queued', 'plan' => $plan->toArray()]);
        $carrier = new RunCarrier(fn (int $files, int $bytes) => $this->progress(number_format($files).' files, '.Words::size($bytes)));
        $carrier->carryOut($run, $order->planned, $reading);
        $this->endProgress();
        if ($run->refresh()->state === 'waiting' && ! $input->getOption('no-wait')) {
            $this->waitFor($run, $carrier);
        }

        return $this->tell($run);
    }

    /**
     * A marked workload's own place is not written over from a terminal, where nobody else sees the order first.
     *
     * @throws CannotPlan
     */
    private static function refuseWithoutApproval(Workload $workload, OrderFromInput $order): void
    {
        $plan = $order->plan;
        $marked = TargetReach::markedIn($plan->hostModel(), $plan->target);
        if ($marked === []) {
            return;
        }
        $preview = new Preview($order->planned->order, $plan->look(), 0);
        foreach ($preview->lines() as $line) {
            if ($line->deed === Deed::Replaced || $line->deed === Deed::PresentRenamed) {
                throw CannotPlan::because("replacing anything of {$marked[0]->name} in place waits for a second person; "
                    .'order it on the worksheet of a request');
            }
        }
    }

    private function waitFor(Run $run, RunCarrier $carrier): void
    {
        while (! $run->isOver()) {
            if ($run->state === 'waiting') {
                $this->say("Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).'. Record an arrival with: bin/kaiseki cartridge STORE LABEL --arrived');
            }
            for ($state = $run->state; $run->state === $state && $state !== 'queued'; $run->refresh()) {
                usleep(300_000);
            }
            if ($run->state === 'queued') {
                $carrier->carryOut($run);
                $run->refresh();
            }
        }
    }

    private function tell(Run $run): int
    {
        $outcome = $run->outcome ?? [];
        $seconds = $run->seconds() ?? 0.0;
        if ($run->state !== 'done') {
            $this->say($run->state === 'waiting' ? "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).', and goes on by itself.' : (string) $run->failure);
        }
        $this->answer([
            'run' => $run->id, 'point' => $run->set_name, 'state' => $run->state, 'entries' => $outcome['entries'] ?? 0, 'files' => $outcome['files'] ?? 0, 'bytes' => $outcome['bytes'] ?? 0, 'seconds' => $seconds,
            'estimate_seconds' => $run->estimate, 'waits_for' => $run->waits_for ?? [],
            'checks' => $outcome['checks'] ?? [], 'left_out' => $outcome['left_out'] ?? [], 'differences' => $outcome['differences'] ?? [], 'from_other_points' => $outcome['from_other_points'] ?? [],
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]), function () use ($run, $outcome, $seconds): iterable {
            if ($run->state !== 'done') {
                return;
            }
            yield sprintf('Run %d: %s, %s in %s, from %s.', $run->id, Words::count($outcome['files'], 'file'), Words::size($outcome['bytes']), Words::duration($seconds), $run->set_name);
            foreach ($outcome['checks'] as $check) {
                yield "  {$check['result']}: {$check['check']}";
            }
            foreach (array_slice($outcome['left_out'], 0, 20) as $left) {
                yield "  left out: {$left['path']}: {$left['because']}";
            }
            if (count($outcome['left_out']) > 20) {
                yield '  and '.(count($outcome['left_out']) - 20).' more: see bin/kaiseki proof '.$run->id;
            }
        });

        return match (true) {
            $run->state === 'waiting' => self::BLOCKED,
            default => $run->state === 'done' && $outcome['right'] ? self::DONE : self::NOT_ALL_RIGHT,
        };
    }
}
