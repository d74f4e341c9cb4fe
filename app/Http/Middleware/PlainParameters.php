<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\UnprocessableEntityHttpException;

/**
 * What a page of ours never sends is refused before anything works with it: a list where one value belongs, bytes that are no text,
 * numbers that no column holds.
 */
final class PlainParameters
{
    /** The fields that are lists, and at which addresses they may be. */
    private const LISTS = [
        'sources' => '~/sources$~D', 'copy_to' => '~/schedule$~D', 'from' => '~/copies$~D', 'paths' => '~/select$~D',
        'tables' => '~/database$~D', 'disks' => '~/machine$~D', 'storages' => '~^/runs/\d+/settle$~D',
        'items' => '~/items$~D', 'ticked' => '~^/own/\d+/pick$~D', 'may' => '~^/rights/[a-z]+/\d+$~D', 'groups' => '~^/people/\d+$~D',
        'duties' => '~^/people/\d+$~D',
    ];

    /** The fields that are names of files: bytes, whatever they spell. */
    private const NAMES = ['path', 'folder', 'rename', 'begins'];

    /** The fields that are numbers, wherever they stand. */
    private const NUMBERS = ['page', 'host', 'workload', 'store', 'set', 'requester', 'copy', 'mb', 'minutes', 'days'];

    private const LARGEST = 2_000_000_000;

    public function handle(Request $request, Closure $next): Response
    {
        $path = rawurldecode($request->getPathInfo());
        if (! self::isText($path)) {
            abort(404);
        }
        foreach ([...$request->query->all(), ...$request->request->all()] as $name => $value) {
            self::refuseOdd((string) $name, $value, $path);
        }

        return $next($request);
    }

    private static function refuseOdd(string $name, mixed $value, string $path): void
    {
        if (is_array($value)) {
            if (preg_match(self::LISTS[$name] ?? '~$^~', $path) !== 1) {
                throw new UnprocessableEntityHttpException("\"$name\" is one value, and no list.");
            }
            foreach ($value as $key => $one) {
                if (is_array($one) || ! self::isText((string) $key)) {
                    throw new UnprocessableEntityHttpException("\"$name\" is a list of single values.");
                }
                self::refuseOdd('', $one, $path);
            }
        } elseif (is_string($value) && ! in_array($name, self::NAMES, true) && ! self::isText($value)) {
            throw new UnprocessableEntityHttpException("\"$name\" is no text.");
        } elseif (in_array($name, self::NUMBERS, true) && is_numeric($value) && abs((float) $value) > self::LARGEST) {
            throw new UnprocessableEntityHttpException("\"$name\" is too large.");
        }
    }

    private static function isText(string $value): bool
    {
        return mb_check_encoding($value, 'UTF-8') && ! str_contains($value, "\0");
    }
}
