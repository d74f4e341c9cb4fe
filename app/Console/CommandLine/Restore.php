<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Catalog\CatalogReader;
use App\Estate\CannotPlan;
use App\Estate\PlanOfReading;
use App\Estate\Points;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\RestorePlan;
use App\Runs\RunCarrier;
use App\Runs\Targets;
use App\Trust\BestTree;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Restore extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('restore')->setDescription('Brings files and folders back, and checks them')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set')
            ->addOption('path', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'what to bring back; / is the whole tree')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'a folder of this machine; it is made if only its last part is missing')
            ->addOption('in-place', null, InputOption::VALUE_NONE, 'to where it came from')
            ->addOption('conflict', null, InputOption::VALUE_REQUIRED, 'where something stands already: '.implode(', ', array_column(ConflictRule::cases(), 'value')), ConflictRule::Beside->value)
            ->addOption('flat', null, InputOption::VALUE_NONE, 'all files into one folder, clashing names numbered')
            ->addOption('keep-setid', null, InputOption::VALUE_NONE, 'keep set-user and set-group bits')
            ->addOption('no-wait', null, InputOption::VALUE_NONE, 'do not wait for a cartridge from the shelf, or a store: the run goes on by itself when it is there')
            ->addOption('set-first', null, InputOption::VALUE_NONE, 'make a set of what is there now before anything is put in place')
            ->addOption('across-points', null, InputOption::VALUE_NONE, 'what cannot be read at the point, or is in doubt there, from the newest point at which it is right')
            ->addOption('dry-run', null, InputOption::VALUE_NONE, 'only say what would be done');
        $this->addDemand();
        $this->addCopyRule();
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $paths = $input->getOption('path') === [] ? throw new InvalidArgumentException('Say with --path what to bring back; --path=/ is the whole tree.') : self::paths($input);
        $conflict = ConflictRule::tryFrom((string) $input->getOption('conflict')) ?? throw new InvalidArgumentException('--conflict is one of '.implode(', ', array_column(ConflictRule::cases(), 'value')).'.');
        $target = $this->target($input, $workload);
        $rule = self::copyRule($input);
        $points = new Points($workload, null, $rule);
        $rule->mustName($points->storeNames());
        $across = $input->getOption('across-points') ? (Demands::parse((string) $input->getOption('demand'))->clear ? 'clear' : 'readable') : '';
        $point = $across === '' ? $this->point($input, $points, $paths) : $this->pointAcross($input, $points);
        foreach ($paths as $path) {
            if ($across === '') {
                Selected::mustBeThere($workload, $point, $path);
            }
        }
        $best = $across === '' ? null : BestTree::of($points, $points->sets[$point->id], $paths, $across === 'clear');
        $reading = PlanOfReading::for($points, $point, $paths, null, $rule, $best?->over((new CatalogReader)->entriesBelow($point, $paths)));
        $plan = new RestorePlan(
            $paths, $target, $conflict, $point->captured_at->format('Y-m-d Hi'),
            sprintf('Put back %s, %s from %s as it was on %s into %s, %s.', Words::count($reading->files, 'file'), Words::size($reading->bytes), $workload->name, Words::moment($point->captured_at, 'UTC'), mb_scrub($target), $conflict->words()),
            (bool) $input->getOption('in-place'), (bool) $input->getOption('flat'), (bool) $input->getOption('keep-setid'), Targets::isNew($target), $rule, $across,
        );
        if ($input->getOption('set-first')) {
            $plan = $plan->withSetFirst();
        }
        if ($input->getOption('dry-run')) {
            $this->answer(['run' => null, 'point' => $point->name, 'order' => $plan->sentence, 'entries' => $reading->entries, 'bytes' => $reading->bytes, 'missing' => $reading->missing] + ($best === null ? [] : SalvageList::rows($best)), fn (): array => [$plan->sentence, 'Nothing was done.']);

            return self::DONE;
        }
        $run = Run::query()->create(['workload_id' => $workload->id, 'set_id' => $point->id, 'state' => 'queued', 'plan' => $plan->toArray()]);
        $carrier = new RunCarrier(fn (int $files, int $bytes) => $this->progress(number_format($files).' files, '.Words::size($bytes)));
        $carrier->carryOut($run);
        $this->endProgress();
        if ($run->refresh()->state === 'waiting' && ! $input->getOption('no-wait')) {
            $this->waitFor($run, $carrier);
        }

        return $this->tell($run);
    }

    /** With files from several points, the point is the newest there is, whatever is wrong with it. */
    private function pointAcross(InputInterface $input, Points $points): BackupSet
    {
        return $points->model(SalvageList::point($input, $points));
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

    private function target(InputInterface $input, Workload $workload): string
    {
        $to = $input->getOption('to');
        if (($to === null) === ! $input->getOption('in-place')) {
            throw new InvalidArgumentException('Say where to: with --to=DIR or with --in-place.');
        }
        if ($to === null) {
            return $workload->source ?? throw CannotPlan::because("{$workload->name} has no place of its own that is known here; name a folder with --to");
        }
        if ($to === '') {
            throw new InvalidArgumentException('--to names no folder.');
        }
        $target = Targets::absolute((string) $to);
        Targets::refuseUnfit($target);

        return $target;
    }

    /** @param  list<string>  $paths */
    private function point(InputInterface $input, Points $points, array $paths): BackupSet
    {
        $named = $input->getOption('point');
        if (($named === null) === ($input->getOption('at') === null)) {
            throw new InvalidArgumentException('Say which point: with --at=MOMENT or with --point=SET.');
        }
        if ($named !== null) {
            $point = self::knownSet($points->workload, (string) $named);
            $outline = $points->sets[$point->id];
            if ($points->usable($outline) === 'no') {
                throw CannotPlan::because("{$point->name} cannot be given back: ".$points->because($outline));
            }

            return $points->model($outline);
        }
        $found = $points->find(Instant::parse((string) $input->getOption('at')), Demands::parse((string) $input->getOption('demand')), $paths === [''] ? null : $paths);
        if ($found->set === null) {
            $reasons = array_map(fn (PassedOver $over): string => "{$over->set->id}: {$over->because}", $found->passedOver);
            throw CannotPlan::because('there is no usable point at or before that moment'.($reasons === [] ? '' : ' ('.implode('; ', array_slice($reasons, 0, 5)).')'));
        }

        return $points->modelOf($found->set) ?? throw CannotPlan::because('the point is gone');
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
