<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Hosts\HostCommand;
use App\Instance;
use App\Jobs\ReckonStanding;
use App\Kinds\BringsOthers;
use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Kinds\Refusal;
use App\Kinds\Talk;
use App\Models\BackupSet;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotPlan;
use App\Sets\CannotRegister;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Chain\ChainSheet;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\UnableToRestore;
use PDOException;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Exception\ExceptionInterface;
use Symfony\Component\Console\Exception\RuntimeException;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputDefinition;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\ConsoleOutputInterface;
use Symfony\Component\Console\Output\OutputInterface;
use Throwable;

/** What all commands share: the answer as text or as one JSON document, messages on standard error, the exit codes. */
abstract class KaisekiCommand extends Command
{
    public const DONE = 0;

    public const BUG = 1;

    public const WRONG_USE = 2;

    public const BLOCKED = 3;

    public const NOT_ALL_RIGHT = 4;

    /** @var list<InputOption> those that it has whatever the kind */
    private array $ofAll = [];

    /** @var list<BringsOthers> that can bring the workload that is named back too */
    private array $others = [];

    private OutputInterface $out;

    private OutputInterface $errors;

    protected bool $json;

    /** Whether the command can do its work with no instance running. */
    protected function needsInstance(InputInterface $input): bool
    {
        return true;
    }

    /** Whether the workload that it names may stand otherwise after it, so that it is looked at again. */
    protected function changes(InputInterface $input): bool
    {
        return false;
    }

    private function lookAgain(InputInterface $input): void
    {
        $as = $input->hasOption('as') ? $input->getOption('as') : null;
        $name = $as ?? ($input->hasArgument('name') ? $input->getArgument('name') : null);
        $id = $name === null ? null : Workload::query()->where('name', $name)->value('id');
        if ($id !== null) {
            ReckonStanding::begin((int) $id);
        }
    }

    /** Does the work and answers; the exit code. */
    abstract protected function carryOut(InputInterface $input): int;

    protected function configure(): void
    {
        $this->addOption('json', null, InputOption::VALUE_NONE, 'answer with one JSON document');
    }

    /**
     * Whose options the command takes: one kind's, once that is known; those of all kinds otherwise.
     *
     * @return list<Kind>|null null for a command that has the same options for all
     */
    protected function kinds(ArgvInput $input): ?array
    {
        return null;
    }

    public function run(InputInterface $input, OutputInterface $output): int
    {
        $kinds = $input instanceof ArgvInput ? $this->kinds($input) : null;
        if ($kinds !== null) {
            $this->setDefinition(new InputDefinition([...$this->getNativeDefinition()->getArguments(), ...$this->ofAll]));
            self::describeFor($this, $kinds);
            foreach ($this->others as $other) {
                self::describe($this, $other->describeBringing(...));
            }
        }
        try {
            return parent::run($input, $output);
        } catch (ExceptionInterface $wrong) {
            $takes = implode(
                ', ',
                array_map(
                    fn (InputOption $option): string => "--{$option->getName()}",
                    array_values($this->getNativeDefinition()->getOptions()),
                ),
            );
            throw str_contains($wrong->getMessage(), 'option does not exist')
                ? new RuntimeException("{$wrong->getMessage()} It takes: $takes.")
                : $wrong;
        }
    }

    /**
     * Called at the end of configure(): until it is known which kind is meant, the options of all are there, so that they can be looked
     * up.
     */
    protected function addOptionsOfKinds(): void
    {
        $this->ofAll = array_values($this->getNativeDefinition()->getOptions());
        self::describeFor($this, array_values(Kinds::all()));
    }

    /**
     * Adds the options of several kinds to a command; where two use one name, it is the first one's.
     *
     * @param  list<Kind>  $kinds
     */
    private static function describeFor(self $command, array $kinds): void
    {
        foreach ($kinds as $kind) {
            self::describe($command, $kind->terminal()->describe(...));
        }
    }

    /** @param  callable(Command): void  $describe */
    private static function describe(self $command, callable $describe): void
    {
        $own = new Command($command->getName());
        $describe($own);
        foreach ($own->getDefinition()->getOptions() as $option) {
            if (! $command->getNativeDefinition()->hasOption($option->getName())) {
                $command->getNativeDefinition()->addOption($option);
            }
        }
    }

    /**
     * The kind of the workload that is named first, found before it is known which options take a value of their own.
     *
     * @return list<Kind>
     */
    protected function kindOfNamed(ArgvInput $input): array
    {
        $tokens = $input->getRawTokens(true);
        $options = $this->getNativeDefinition();
        for ($i = 0; $i < count($tokens); $i++) {
            if (! str_starts_with($tokens[$i], '-')) {
                return $this->kindOfWorkload($tokens[$i]);
            }
            $name = substr($tokens[$i], 2);
            $i += $options->hasOption($name) && $options->getOption($name)->acceptValue() ? 1 : 0;
        }

        return array_values(Kinds::all());
    }

    /** @return list<Kind> */
    private function kindOfWorkload(string $name): array
    {
        try {
            self::boot();
        } catch (NoInstance) {
            return array_values(Kinds::all()); // which is told when the command is carried out
        }
        $workload = Workload::query()->where('name', $name)->first();

        if ($workload === null) {
            return array_values(Kinds::all());
        }
        $this->others = Kinds::bringing($workload);

        return [Kinds::of($workload)];
    }

    final protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $this->out = $output;
        $this->errors = $output instanceof ConsoleOutputInterface ? $output->getErrorOutput() : $output;
        $this->json = (bool) $input->getOption('json');
        try {
            if ($this->needsInstance($input)) {
                self::boot();
            }

            $code = $this->carryOut($input);
            if ($this->changes($input)) {
                $this->lookAgain($input);
            }

            return $code;
        } catch (InvalidArgumentException|UnsafePath $wrong) {
            return $this->refuse($wrong->getMessage(), self::WRONG_USE);
        } catch (CannotPlan|CannotRegister|NoInstance|NoServer|Refusal $blocked) {
            return $this->refuse($blocked->getMessage(), self::BLOCKED);
        } catch (UnableToRestore $unable) {
            return $this->refuse($unable->getMessage(), self::BLOCKED);
        } catch (Throwable $bug) {
            return $this->refuse(
                'This should not have happened: '.$bug->getMessage().' ('.basename($bug->getFile()).':'.$bug->getLine().')',
                self::BUG,
            );
        }
    }

    /**
     * It cannot be done now, and why.
     *
     * @return int the exit status
     */
    protected function blocked(string $why): int
    {
        $this->answer(['error' => $why], fn (): array => [$why]);

        return self::BLOCKED;
    }

    /**
     * @param  array<string, mixed>  $document
     * @param  callable(): iterable<string>  $lines  the same for people
     */
    protected function answer(array $document, callable $lines): void
    {
        if ($this->json) {
            $this->out->write(
                json_encode(
                    $document,
                    JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION,
                )."\n",
                false,
                OutputInterface::OUTPUT_RAW,
            );

            return;
        }
        foreach ($lines() as $line) {
            $this->out->write(Shown::name($line)."\n", false, OutputInterface::OUTPUT_RAW);
        }
    }

    /** A document of its own kind, byte for byte, on standard output. */
    protected function raw(string $document): void
    {
        $this->out->write($document, false, OutputInterface::OUTPUT_RAW);
    }

    protected function say(string $message): void
    {
        $this->errors->write(Shown::name($message)."\n", false, OutputInterface::OUTPUT_RAW);
    }

    /** Shows how far the work is, where somebody can see it. */
    protected function progress(string $message): void
    {
        if (stream_isatty(STDERR)) {
            fwrite(STDERR, "\r\e[K".Shown::name($message));
        }
    }

    protected function endProgress(): void
    {
        if (stream_isatty(STDERR)) {
            fwrite(STDERR, "\r\e[K");
        }
    }

    /** Whoever waits for this command, as what it has done by others sees them. */
    protected function talk(): Talk
    {
        return new CommandTalk($this->say(...), $this->progress(...));
    }

    protected function workload(InputInterface $input): Workload
    {
        $name = (string) $input->getArgument('name');
        $workload =
            Workload::query()->where('name', $name)->first() ?? throw new InvalidArgumentException("There is no workload named \"$name\".");
        $this->mustTake($workload);

        return $workload;
    }

    /**
     * Commands that only some kinds know are refused for the others.
     *
     * @throws InvalidArgumentException
     */
    private function mustTake(Workload $workload): void
    {
        $kind = Kinds::of($workload);
        $knowing = array_filter(Kinds::all(), fn (Kind $one): bool => in_array($this->getName(), $one->terminal()->takes(), true));
        if ($knowing !== [] && ! isset($knowing[$kind->name()])) {
            $of = implode(' or ', array_map(fn (Kind $one): string => $one->noun(), array_values($knowing)));
            $own = implode(', ', [...$kind->terminal()->takes(), 'points', 'restore', 'protect']);
            throw new InvalidArgumentException(
                "{$workload->name} is {$kind->noun()}, and \"{$this->getName()}\" is about $of. Its commands are: $own.",
            );
        }
    }

    public static function knownSet(Workload $workload, string $name): BackupSet
    {
        return $workload->sets()->where('name', $name)->first() ??
            throw new InvalidArgumentException("There is no set named \"$name\" of {$workload->name}.");
    }

    /**
     * @return list<string>|null
     *
     * @throws InvalidArgumentException
     */
    protected static function command(mixed $json): ?array
    {
        return $json === null ? null : HostCommand::parse((string) $json);
    }

    protected static function knownStore(string $name): Store
    {
        return Store::query()->where('name', $name)->first() ?? throw new InvalidArgumentException("There is no store named \"$name\".");
    }

    /** @return list<string> the paths of --path, as in trees; the top for none */
    public static function paths(InputInterface $input): array
    {
        /** @var list<string> $paths */
        $paths = $input->getOption('path');

        return $paths === [] ? [''] : array_map(EntryPath::of(...), $paths);
    }

    protected function addDemand(): void
    {
        self::describeDemand($this);
    }

    public static function describeDemand(Command $command): void
    {
        $command->addOption(
            'demand',
            null,
            InputOption::VALUE_REQUIRED,
            'what the point must be: of consistent, clear, checked, site=NAME, within=SPAN; or none',
            'consistent,clear',
        );
    }

    protected function addCopyRule(): void
    {
        self::describeCopyRule($this);
    }

    public static function describeCopyRule(Command $command): void
    {
        $command
            ->addOption(
                'use',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'a store, or STORE/CARTRIDGE, to read from wherever it has a copy',
            )
            ->addOption(
                'avoid',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'a store, or STORE/CARTRIDGE, not to read from',
            );
    }

    public static function copyRule(InputInterface $input): CopyRule
    {
        /** @var list<string> $use */
        $use = $input->getOption('use');
        /** @var list<string> $avoid */
        $avoid = $input->getOption('avoid');

        return new CopyRule($use, $avoid);
    }

    protected static function sheet(InputInterface $input): ChainSheet
    {
        $file = (string) $input->getOption('sheet');
        $json = @file_get_contents($file);

        return ChainSheet::parse($json === false ? throw new InvalidArgumentException("The sheet \"$file\" cannot be read.") : $json);
    }

    private function refuse(string $message, int $code): int
    {
        $this->endProgress();
        $this->say($message);
        if ($this->json) {
            $this->answer(['error' => mb_scrub($message)], fn (): array => []);
        }

        return $code;
    }

    /** @throws CannotPlan if a second person has to say yes, which nobody does at a terminal */
    protected static function refuseMarked(Workload $workload, string $what): void
    {
        if ($workload->needs_approval) {
            throw CannotPlan::because("{$workload->name} is marked, and $what waits for a second person: ask for it on its pages");
        }
    }

    private static function boot(): void
    {
        $home = Instance::home();
        if (! file_exists("$home/sql/db.sock")) {
            throw NoInstance::at($home);
        }
        if (function_exists('app') && app()->bound(Kernel::class) && app()->isBooted()) {
            return;
        }
        $app = require dirname(__DIR__, 3).'/bootstrap/app.php';
        $app->make(Kernel::class)->bootstrap();
        try {
            DB::connection()->getPdo();
        } catch (PDOException) {
            throw NoInstance::at($home);
        }
    }
}
