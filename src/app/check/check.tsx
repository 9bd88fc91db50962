/** Go through the hits: what was found, how much is found, and what else to look for. */
import type { ReactNode } from 'react';
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { Finding } from './finding.tsx';
import { Families } from './families.tsx';
import { ContactSheet } from './contact-sheet.tsx';
import { HitList } from './hit-list.tsx';
import { Seek } from './seek.tsx';
import { CHECK_TABS, useView, type CheckTab } from '../stores/view.ts';

const PANELS = { Families, Frames: ContactSheet, Hits: HitList, Finding, Seek } as const satisfies Record<
  CheckTab,
  () => ReactNode
>;

export function Check() {
  const tab = useView((s) => s.checkTab);
  return (
    <TabGroup
      className="flex min-h-0 grow flex-col gap-3"
      selectedIndex={CHECK_TABS.indexOf(tab)}
      onChange={(at) => useView.setState({ checkTab: CHECK_TABS[at]! })}
    >
      <TabList className="flex gap-4 border-b border-rope">
        {CHECK_TABS.map((name) => (
          <Tab key={name} className="tab">
            {name}
          </Tab>
        ))}
      </TabList>
      <TabPanels className="flex min-h-0 grow flex-col">
        {CHECK_TABS.map((name) => {
          const Panel = PANELS[name];
          return (
            <TabPanel key={name} className="flex min-h-0 grow flex-col gap-3">
              <Panel />
            </TabPanel>
          );
        })}
      </TabPanels>
    </TabGroup>
  );
}
