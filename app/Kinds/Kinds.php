<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use ReflectionClass;
use Symfony\Component\Console\Input\InputInterface;
use Throwable;

/** The kinds that are installed. It is asked before there is an application too: the command line has commands of theirs. */
final class Kinds
{
    /** @var array<string, Kind>|null by name, in the order in which they are named */
    private static ?array $installed = null;

    /** @return array<string, Kind> */
    public static function all(): array
    {
        return self::$installed ??= self::load();
    }

    /** One that is not installed is one too, of which everything but keeping its sets is refused. */
    public static function named(string $name): Kind
    {
        return self::all()[$name] ?? new NotInstalled($name);
    }

    public static function of(Workload|Run $of): Kind
    {
        return self::named($of instanceof Run ? $of->kind ?? $of->workload->kind : $of->kind);
    }

    /** @return list<BringsOthers> those that can bring a workload back too, whose own kind is another */
    public static function bringing(Workload $workload): array
    {
        return array_values(array_filter(
            self::all(),
            fn (Kind $one): bool => $one instanceof BringsOthers && $one->name() !== $workload->kind && $one->brings($workload),
        ));
    }

    /** Whose order it is that somebody typed. */
    public static function terminalOf(Workload $workload, InputInterface $input): Terminal
    {
        foreach (self::bringing($workload) as $kind) {
            if ($kind->isMeant($input)) {
                return $kind->terminal();
            }
        }

        return self::of($workload)->terminal();
    }

    /** Of a request of which it is not settled yet what it is about, it is taken to be the first. */
    public static function ofRequest(RecoveryRequest $request): Kind
    {
        return $request->workload === null ? self::first() : self::of($request->workload);
    }

    public static function first(): Kind
    {
        return array_values(self::all())[0];
    }

    /** The first whose workloads may be machines with an agent. */
    public static function takingAgents(): TakesAgents
    {
        foreach (self::all() as $kind) {
            if ($kind instanceof TakesAgents) {
                return $kind;
            }
        }
        throw NoKind::takingAgents();
    }

    public static function isInstalled(string $name): bool
    {
        return isset(self::all()[$name]);
    }

    /** The kind in whose folder a failure arose, if it came from outside the project; null else. */
    public static function culprit(Throwable $failure): ?Kind
    {
        $files = [$failure->getFile(), ...array_column($failure->getTrace(), 'file')];
        foreach (self::all() as $kind) {
            $folder = dirname((string) (new ReflectionClass($kind))->getFileName());
            $isOurs = str_starts_with($folder, __DIR__.'/');
            if (! $isOurs && array_filter($files, fn (string $file): bool => str_starts_with($file, "$folder/")) !== []) {
                return $kind;
            }
        }

        return null;
    }

    /**
     * Does something about one workload of many: where its kind fails, that is told, and the others are gone on with.
     *
     * @param  callable(): void  $work
     */
    public static function goOn(Workload $workload, string $what, callable $work): void
    {
        try {
            $work();
        } catch (Throwable $failure) {
            report($failure);
            TrailEntry::add(mb_strcut("$what of {$workload->name} failed: ".mb_scrub($failure->getMessage()), 0, 900), null, null);
        }
    }

    /** Reads anew which there are. */
    public static function reload(): void
    {
        self::$installed = null;
    }

    /** @return array<string, Kind> */
    private static function load(): array
    {
        $classes = require dirname(__DIR__, 2).'/config/kinds.php';
        $more = getenv('KAISEKI_KINDS');
        $kinds = [];
        foreach ([...$classes, ...$more === false || $more === '' ? [] : self::from($more)] as $class) {
            $kind = new $class;
            if (! ($kind instanceof Kind)) {
                throw NoKind::ofClass($class);
            }
            $kinds[$kind->name()] ??= $kind;
        }

        return $kinds;
    }

    /** @return list<class-string> */
    private static function from(string $file): array
    {
        $classes = is_file($file) ? require $file : null;
        $isClass = fn (mixed $class): bool => is_string($class) && class_exists($class);
        if (! is_array($classes) || count(array_filter($classes, $isClass)) !== count($classes)) {
            throw NoKind::inFile($file);
        }

        return array_values($classes);
    }
}
