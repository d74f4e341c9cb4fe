<p class="mb-1 w-100"><span class="mono">{{ $name->name }}</span> leads to
    <span class="mono">{{ $name->leadsTo()->words() }}</span>, as seen <x-moment :at="$name->seen_at" :zone="$zone" />.</p>
