<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Http\SentFile;
use App\Kinds\Machines\Metal\KeptMedium;
use App\Kinds\Machines\Metal\MakeMedium;
use App\Kinds\Machines\Metal\MediumFormat;
use App\Line\LineAddress;
use App\Line\LineKey;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Recovery media: what there is of them, made by one click, and taken. */
final class MediaController
{
    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('kinds.machine.media', [
            'media' => KeptMedium::query()->get()->keyBy(fn (KeptMedium $one): string => $one->format->value),
            'here' => LineAddress::here(),
            'key' => LineKey::fingerprint(),
            'zone' => $user->zone,
        ]);
    }

    public function make(Request $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $format = MediumFormat::tryFrom($request->string('format')->value());
        $desk = LineAddress::here();
        if ($format === null || $desk === '') {
            return redirect('/media')->withErrors(['desk' => 'Choose one of the formats; this desk must have a line for media.']);
        }
        $medium = KeptMedium::begin($format, $desk);
        if ($medium !== null) {
            TrailEntry::add("A recovery medium is made ({$format->value}), for a desk at $desk.", null, $user);
            MakeMedium::dispatch($medium->id);
        }

        return redirect('/media');
    }

    public function take(Request $request, string $file): StreamedResponse|Response
    {
        if ($file === KeptMedium::KEY) {
            return response(LineKey::publicPem(), 200, ['Content-Type' => 'application/x-pem-file']);
        }
        $medium = KeptMedium::query()->where('state', KeptMedium::MADE)->get()
            ->first(fn (KeptMedium $one): bool => in_array($file, $one->names(), true));
        $path = KeptMedium::folder()."/$file";
        $stream = $medium === null ? false : @fopen($path, 'rb');
        abort_if($stream === false, 404);

        return SentFile::response($request, $stream, (int) filesize($path), $file, "$file {$medium->made_at}", fn () => null);
    }
}
