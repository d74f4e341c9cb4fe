@use('App\Kinds\Machines\Metal\KeptMedium')
@use('App\Kinds\Machines\Metal\MediumFormat')
@use('App\Words')
@php($isMaking = $media->contains(fn (KeptMedium $one): bool => $one->isBeingMade()))
@php($isHereAlone = str_starts_with($here, '127.') || $here === '')
<x-layout title="Recovery media" here="Estate">
    <main id="main" class="page" @if ($isMaking) hx-get="/media" hx-select="#main" hx-target="#main" hx-swap="outerHTML"
        hx-trigger="every 2s" @endif>
        <h1>Recovery media</h1>
        <p class="hint">A machine is started from one, and made known by a code; then what it is to become comes onto its disks. They hold
            no secret, and trust the desk alone whose key is <span class="mono">{{ $key }}</span>.</p>
        @error('desk')
            <p class="attention" role="alert">{{ $message }}</p>
        @enderror
        @if ($isHereAlone)
            <p class="attention">This desk listens for media on this machine alone. KAISEKI_METAL says where machines reach it, when it is
                started.</p>
        @endif
        <table class="list mb-3">
            <thead>
                <tr>
                    <th>Format</th>
                    <th>Made</th>
                    <th>Looks for the desk at</th>
                    <th class="num">Size</th>
                    <th>Take it</th>
                    <th></th>
                </tr>
            </thead>
            <tbody>
                @foreach (MediumFormat::cases() as $format)
                    @php($one = $media[$format->value] ?? null)
                    <tr id="medium-{{ $format->value }}">
                        <td>{{ $format->value }}<div class="form-text">{{ $format->words() }}</div></td>
                        <td>
                            @if ($one?->isBeingMade())
                                is being made
                            @elseif ($one?->state === KeptMedium::FAILED)
                                <span class="attention">{{ $one->failure }}</span>
                            @elseif ($one?->made_at !== null)
                                <x-moment :at="$one->made_at" :zone="$zone" />, version {{ $one->version }}
                            @else
                                <span class="muted">not yet</span>
                            @endif
                        </td>
                        <td class="mono">{{ $one?->desk }}</td>
                        <td class="num">
                            @foreach ($one?->files ?? [] as $file)
                                <div><x-size :bytes="$file['bytes']" /></div>
                            @endforeach
                        </td>
                        <td>
                            @foreach ($one?->state === KeptMedium::MADE ? $one->names() : [] as $name)
                                <div><a class="mono text-decoration-underline" hx-boost="false"
                                        href="/media/{{ $name }}">{{ $name }}</a></div>
                            @endforeach
                        </td>
                        <td>
                            <form method="post" action="/media">@csrf<input type="hidden" name="format" value="{{ $format->value }}">
                                <button class="btn btn-sm btn-outline-primary" @disabled($one?->isBeingMade() ?? false)
                                    @if ($loop->first) data-focus @endif>{{ $one?->made_at === null ? 'Make it' : 'Make it anew' }}</button>
                            </form>
                        </td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        <p class="muted">They look for this desk at <span class="mono">{{ $here }}</span>, and, where that does not answer, by the name
            <span class="mono">kaiseki-desk</span> in the domain that their network gives. Another address, or a code built in: <span
                class="mono">bin/kaiseki medium make</span>.</p>
        <p class="muted">What was taken is right if <span class="mono">sha256sum --check medium.iso.sha256</span> says so, and that list is
            the desk's if <span class="mono">openssl pkeyutl -verify -pubin -inkey {{ KeptMedium::KEY }} -rawin -in medium.iso.sha256
                -sigfile medium.iso.sha256.sig</span> does (<a class="text-decoration-underline" hx-boost="false"
                href="/media/{{ KeptMedium::KEY }}">{{ KeptMedium::KEY }}</a>).</p>
        @php($from = $media->first(fn (KeptMedium $one): bool => $one->made_from !== null)?->made_from ?? [])
        @if ($from !== [])
            <details>
                <summary>What they are made from</summary>
                <ul class="plain-list mono small">
                    @foreach ($from as $package)
                        <li>{{ $package }}</li>
                    @endforeach
                </ul>
            </details>
        @endif
    </main>
</x-layout>
