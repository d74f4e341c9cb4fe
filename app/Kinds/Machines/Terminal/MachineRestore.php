<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Machines\Order\MachineOrder;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Host;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\WaitAtTerminal;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Run\Targets;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\ImageFormat;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for a machine. */
final readonly class MachineRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    public static function describe(Command $command): void
    {
        self::describePoint($command);
        $formats = implode(', ', array_map(fn (ImageFormat $format): string => $format->value, ImageFormat::cases()));
        $command
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'a folder that images are written to, as NAME.DISK.EXT; or files')
            ->addOption(
                'path',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'a file or folder out of it, as browse lists them (/DISK.PARTITION/...), instead of images',
            )
            ->addOption(
                'conflict',
                null,
                InputOption::VALUE_REQUIRED,
                'of files, where something stands: '.implode(', ', array_column(ConflictRule::cases(), 'value')),
                'beside',
            )
            ->addOption('format', null, InputOption::VALUE_REQUIRED, "of the images: $formats", ImageFormat::Raw->value)
            ->addOption(
                'disk',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'this disk only; without it all; without a folder in place of the one that the machine has',
            )
            ->addOption(
                'into',
                null,
                InputOption::VALUE_REQUIRED,
                'with --path: a machine at a hypervisor into which the files go; --to is a folder of it then: of one that is off with '.
                    'its volume, of one that runs, and has an agent, as it sees it itself',
            )
            ->addOption('host', null, InputOption::VALUE_REQUIRED, 'a host that the folder is one of')
            ->addOption('part', null, InputOption::VALUE_NONE, 'also if blocks are missing: they are left as zeros, and listed')
            ->addOption('no-wait', null, InputOption::VALUE_NONE, 'do not wait for a cartridge from the shelf: the run goes on by itself');
        PlacementRestore::describe($command);
        MetalRestore::describe($command);
        BlankRestore::describe($command);
    }

    public static function describePoint(Command $command): void
    {
        $command
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set');
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    /**
     * @return array{Points, SetOutline}
     *
     * @throws InvalidArgumentException|CannotBring
     */
    public static function point(Workload $workload, InputInterface $input, CopyRule $rule): array
    {
        $points = new Points($workload, null, $rule);
        $rule->mustName($points->storeNames());
        $named = $input->getOption('point');
        if ($named !== null) {
            $point = $points->set((string) $named) ?? throw new InvalidArgumentException("{$workload->name} has no set \"$named\".");
            if ($points->usable($point) === 'no') {
                throw CannotBring::because("{$point->name} cannot be given back: {$points->because($point)}.");
            }

            return [$points, $point];
        }
        $at = $input->getOption('at') ?? throw new InvalidArgumentException('Say with --at=MOMENT, or --point=SET, as of when.');
        $isPart = $input->hasOption('part') && $input->getOption('part');
        $wanted = Instant::parse((string) $at);
        $found = $points->find($wanted, Demands::parse((string) $input->getOption('demand')));
        $whole = $found->set === null ? null : $points->set($found->set->id);
        $part = $isPart ? self::newestInPart($points, $wanted) : null;
        $point = $part !== null && ($whole === null || $part->instant > $whole->instant) ? $part : $whole;

        return [
            $points,
            $point ??
            throw CannotBring::because(
                "{$workload->name} has no usable point at or before $at that is whole; --part takes one that can be given back in part, ".
                    "or see: bin/kaiseki points {$workload->name}",
            ),
        ];
    }

    private static function newestInPart(Points $points, Instant $wanted): ?SetOutline
    {
        foreach (array_reverse($points->sets) as $set) {
            if ($set->instant <= $wanted->microseconds && $points->usable($set) !== 'no') {
                return $set;
            }
        }

        return null;
    }

    /** @throws InvalidArgumentException|CannotBring */
    public function carryOut(): Told
    {
        $plan = $this->plan();
        $blockers = $plan->blockers();
        if ($this->input->getOption('dry-run')) {
            return self::toldPlan($plan, $blockers);
        }
        if ($blockers !== []) {
            return new Told(KaisekiCommand::BLOCKED, ['error' => implode(' ', $blockers)], fn (): array => $blockers);
        }
        $run = Run::query()->create([
            'workload_id' => $this->workload->id,
            'set_id' => $plan->point->id,
            'state' => 'queued',
            'plan' => $plan->order->toArray(),
            'is_whole' => count($plan->disks) === count(ImagePlan::disksOf($plan->points, $plan->point)),
        ]);
        $carrier = new MachineCarrier($this->talk->progress(...));
        $carrier->carryOut($run);
        if ($run->refresh()->state === 'waiting' && ! $this->input->getOption('no-wait')) {
            WaitAtTerminal::until($run, $carrier, $this->talk);
        }

        return $this->told($run);
    }

    private function plan(): ImagePlan
    {
        $rule = KaisekiCommand::copyRule($this->input);
        [$points, $point] = self::point($this->workload, $this->input, $rule);
        $format = (string) $this->input->getOption('format');
        $all = array_map(strval(...), array_keys(ImagePlan::disksOf($points, $point)));
        $disks = array_values(array_unique((array) $this->input->getOption('disk')));
        foreach (array_diff($disks, $all) as $unknown) {
            throw new InvalidArgumentException("{$point->name} has no disk \"$unknown\". It has: ".implode(', ', $all).'.');
        }
        [$host, $folder] = self::target($this->input);
        $order = new MachineOrder(
            $this->workload->name,
            $disks === [] ? $all : $disks,
            ImageFormat::tryFrom($format) ?? throw new InvalidArgumentException("\"$format\" is no format that images are written in."),
            $folder,
            $host->name ?? '',
            (bool) $this->input->getOption('part'),
            $rule,
        );

        return ImagePlan::of($points, $point, $order);
    }

    /** @return array{Host|null, string} */
    public static function target(InputInterface $input): array
    {
        $to = (string) ($input->getOption('to') ?? throw new InvalidArgumentException('Say with --to=FOLDER where it goes.'));
        $name = $input->getOption('host');
        if ($name === null) {
            $folder = Targets::absolute($to);
            Targets::refuseUnfit($folder);

            return [null, $folder];
        }
        $host = Host::query()->where('name', $name)->first() ?? throw new InvalidArgumentException("There is no host \"$name\".");

        return [$host, Targets::onHost($host, $to)];
    }

    /** @param  list<string>  $blockers */
    private static function toldPlan(ImagePlan $plan, array $blockers): Told
    {
        $document = [
            'run' => null,
            'point' => $plan->point->name,
            'order' => $plan->order->sentence,
            'entries' => count($plan->disks),
            'bytes' => array_sum($plan->planned->bytes()),
            'missing' => array_sum($plan->planned->lost()),
            'blockers' => $blockers,
        ];

        return new Told(
            $blockers === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED,
            $document,
            fn (): array => [$plan->order->sentence, ...$blockers, 'Nothing was done.'],
        );
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        if ($run->state !== 'done') {
            $this->talk->say(
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
                'entries' => count($outcome['disks'] ?? []),
                'bytes' => $outcome['bytes'] ?? 0,
                'seconds' => $run->seconds() ?? 0.0,
                'estimate_seconds' => $run->estimate,
                'waits_for' => $run->waits_for ?? [],
                'disks' => $outcome['disks'] ?? [],
                'checks' => $outcome['checks'] ?? [],
                'left_out' => [],
            ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $code = match (true) {
            $run->state === 'waiting' => KaisekiCommand::BLOCKED,
            default => $run->state === 'done' && ($outcome['right'] ?? false) ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
        };

        return new Told($code, $document, fn (): iterable => $run->state === 'done' ? self::lines($run) : []);
    }

    /** @return iterable<string> */
    private static function lines(Run $run): iterable
    {
        $outcome = $run->outcome ?? [];
        yield sprintf(
            'Run %d: %s, %s in %s, from %s.',
            $run->id,
            Words::count(count($outcome['disks']), 'image'),
            Words::size($outcome['bytes']),
            Words::duration($run->seconds() ?? 0.0),
            $run->set_name,
        );
        foreach ($outcome['disks'] as $disk) {
            yield "  {$disk['file']}: ".
                Words::size($disk['size']).
                ', '.
                Words::size($disk['data']).
                ' of it in use'.
                ($disk['bridged'] > 0 ? '; '.Words::count($disk['bridged'], 'block').' from another set or copy' : '').
                ($disk['missing'] > 0 ? '; '.Words::count($disk['missing'], 'block').' left as zeros' : '');
        }
        foreach (CheckLine::all($outcome['checks']) as $check) {
            yield "  {$check->told()}";
        }
    }
}
